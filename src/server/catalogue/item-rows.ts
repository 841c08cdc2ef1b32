import type { Database } from "@/db/client";
import { remember } from "../read/memo";
import { loadCatalogue } from "./load";

/** The row of every item of the catalogue in force, by its ID. */
export async function rowsById(db: Database): Promise<ReadonlyMap<string, number>> {
  const { columns, revision, length } = await loadCatalogue(db, ["id"]);
  return remember(db, "rows by item ID", [revision], () => {
    const rows = new Map<string, number>();
    const ids = columns["id"];
    for (let row = 0; ids?.kind === "text" && row < length; row++) rows.set(ids.values[ids.codes[row]!]!, row);
    return rows;
  });
}

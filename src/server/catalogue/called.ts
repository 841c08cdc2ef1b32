import { cellText } from "@/core/kit/columns";
import { commonName } from "@/core/kit/shared-words";
import type { Database } from "@/db/client";
import { loadCatalogue } from "./load";

/**
 * Says what items are called, by their rows of the catalogue in force: one by its title, several by the words with which
 * their titles begin; "" where these begin with nothing alike.
 */
export async function namerOfItems(db: Database): Promise<(rows: ArrayLike<number>) => string> {
  const { title } = (await loadCatalogue(db, ["title"])).columns;
  return (rows) => {
    if (!title || rows.length === 0) return "";
    return rows.length === 1 ? cellText(title, rows[0]!) : commonName(Array.from(rows, (row) => cellText(title, row)));
  };
}

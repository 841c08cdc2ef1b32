import { columnLabel } from "@/core/catalogue/catalogue-columns";
import { asText, type Columns } from "@/core/kit/columns";
import { rowIndex } from "@/core/results/window-sums";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { NO_VALUE_LABEL } from "@/core/account/names";
import { LEVEL_LABEL, type Level } from "@/core/results/levels";
import type { Database } from "@/db/client";
import { derivedNames } from "../../catalogue/derived";
import { loadCatalogue } from "../../catalogue/load";
import { remember } from "../../read/memo";
import { viewShelfSet } from "../../shelves/view";
import type { LevelCodes } from "./level-codes-type";

/** Fields whose codes are kept beside each other. */
const MOST_FIELDS = 20;

/** Levels that are about the item: its shelf, or a column of the catalogue. Items that left stand together at the end. */
export async function itemLevel(db: Database, level: Level, set: string): Promise<Outcome<LevelCodes>> {
  if (level === "shelf") {
    const view = await viewShelfSet(db, set);
    if (!view.ok) return view;
    const { shelves, shelfOf } = view.value;
    const catalogue = await loadCatalogue(db, []);
    const keys = shelves.map((shelf) => shelf.key);
    const labels = shelves.map((shelf) => shelf.name);
    return ok(byItem(LEVEL_LABEL.shelf, keys, labels, catalogue, (row) => shelfOf[row]!));
  }
  const field = level.slice("field:".length);
  const catalogue = await loadCatalogue(db, [field]);
  const column = catalogue.columns[field];
  if (!column) return fail("field-unknown", `The catalogue has no field "${field}".`, "It may have left the feed.");
  const name = columnLabel(field, await derivedNames(db));
  const made = await remember(
    db,
    "field codes",
    [catalogue.revision, field, name],
    () => {
      const { codes, values } = asText(column);
      const labels = values.map((value) => value || NO_VALUE_LABEL);
      return byItem([name, name], values, labels, catalogue, (row) => codes[row]!);
    },
    MOST_FIELDS,
  );
  return ok(made);
}

/** Codes of a level that each item has one of, by its row. */
function byItem(
  label: [string, string],
  keys: string[],
  labels: string[],
  catalogue: Columns,
  codeOfRow: (row: number) => number,
): LevelCodes {
  const numbers = catalogue.columns["itemNo"];
  const rows = rowIndex(numbers?.kind === "number" ? numbers.values : []);
  const gone = keys.length;
  const byNo = Int32Array.from(rows, (row) => (row < 0 ? gone : codeOfRow(row)));
  const ofItem = (no: number) => (no < byNo.length ? byNo[no]! : gone);
  return {
    label,
    ofItem,
    codeOf: (cube) => {
      const column = cube.dimensions.item;
      return column ? (line) => ofItem(column[line]!) : () => -1;
    },
    keyOf: (code) => (code === gone ? GONE : keys[code]!),
    nameOf: (code) => (code === gone ? "Items no longer in the feed" : labels[code]!),
    codeOfKey: (key) => (key === GONE ? gone : keys.indexOf(key)),
  };
}

const GONE = "gone";

import { columnLabel } from "@/core/catalogue/catalogue-columns";
import { asText, cellText, type Columns } from "@/core/kit/columns";
import { rowIndex } from "@/core/results/window-sums";
import { formatDay, parseDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { SLOT_KEYS, SLOT_LABEL } from "@/core/kit/slots";
import type { Account } from "@/core/account/account";
import { NO_VALUE_LABEL, recordName } from "@/core/account/names";
import type { Cube } from "@/core/results/cube";
import { dimensionOf, LEVEL_LABEL, type Level } from "@/core/results/levels";
import { UNMATCHED_FROM } from "@/core/results/reports/unmatched";
import type { Database } from "@/db/client";
import { items } from "@/db/schema";
import { isNotNull } from "drizzle-orm";
import { derivedNames } from "../../catalogue/derived";
import { loadCatalogue } from "../../catalogue/load";
import { remember } from "../../read/memo";
import { loadCodes } from "../../results/load";
import { liveAccount } from "../../account/state";
import { viewShelfSet } from "../../shelves/shelves";

/** How the lines of a cube are told apart by a level, and what each code is called. */
export interface LevelCodes {
  label: [one: string, many: string];
  /** The code of a cube's line; −1 leaves it out. */
  codeOf(cube: Cube): (line: number) => number;
  /** The code of an item number, for store sales; null where the level is not about items. */
  ofItem: ((no: number) => number) | null;
  keyOf(code: number): string;
  nameOf(code: number): string;
  /** The picture's address, for items. */
  imageOf?(code: number): string;
  /** The code that a key stands for; −1 for none. */
  codeOfKey(key: string): number;
  /** The same for campaigns and ad groups, with a code made for a key that results do not know. */
  codeFor?(key: string): number;
}

/** IDs, titles and pictures by item number; numbers by ID, and rows of the catalogue by ID. */
interface ItemNames {
  of: Map<number, { id: string; title: string; image: string }>;
  numberOf: Map<string, number>;
  rowOf: Map<string, number>;
}

/** Names of items: those of the catalogue, those that left it, and IDs that only reports know. Kept while they hold. */
export async function itemNames(db: Database): Promise<ItemNames> {
  const { columns, length, revision } = await loadCatalogue(db, ["id", "title", "image"]);
  const { texts, version, byText } = await loadCodes(db);
  return remember(db, "item names", [revision, version], () => nameItems(db, columns, length, { texts, byText }));
}

async function nameItems(
  db: Database,
  columns: Columns["columns"],
  length: number,
  { texts, byText }: { texts: Map<number, string>; byText: Map<string, number> },
): Promise<ItemNames> {
  const names: ItemNames = { of: new Map(), numberOf: new Map(), rowOf: new Map() };
  const put = (no: number, id: string, title: string, image: string) => {
    names.of.set(no, { id, title, image });
    names.numberOf.set(id, no);
  };
  const left = db.select({ no: items.itemNo, id: items.itemId, title: items.title }).from(items);
  for (const { no, id, title } of await left.where(isNotNull(items.toRev))) put(no, id, title, "");
  const numbers = columns["itemNo"];
  for (let row = 0; row < length; row++) {
    const no = numbers?.kind === "number" ? (numbers.values[row] as number) : 0;
    const text = (name: string) => (columns[name] ? cellText(columns[name], row) : "");
    put(no, text("id"), text("title"), text("image"));
    names.rowOf.set(text("id"), row);
  }
  for (const [name, no] of byText) {
    if (!name.startsWith("item/")) continue;
    put(UNMATCHED_FROM + no, texts.get(no) ?? "", "(not in the catalogue)", "");
  }
  return names;
}

/** The day of a key; −1 for a text that is none. */
function dayOfKey(key: string): number {
  try {
    return parseDay(key);
  } catch {
    return -1;
  }
}

const GONE = "gone";

/** Makes the codes of a level. @param set the shelf set for level `shelf` */
export async function levelCodes(db: Database, level: Level, set: string): Promise<Outcome<LevelCodes>> {
  if (level === "workspace") {
    return ok({
      label: LEVEL_LABEL.workspace,
      codeOf: () => () => 0,
      ofItem: () => 0,
      keyOf: () => "all",
      nameOf: () => "Everything",
      codeOfKey: () => 0,
    });
  }
  if (level === "shelf" || level.startsWith("field:")) return itemLevel(db, level, set);
  const dimension = dimensionOf(level)!;
  const codeOf = (cube: Cube) => {
    const column = cube.dimensions[dimension];
    return column ? (line: number) => column[line] as number : () => -1;
  };
  const label = LEVEL_LABEL[level as keyof typeof LEVEL_LABEL];
  if (level === "day") {
    return ok({
      ...{ label, codeOf, ofItem: null, keyOf: formatDay },
      nameOf: formatDay,
      codeOfKey: dayOfKey,
    });
  }
  if (level === "hour") {
    const nameOf = (hour: number) => `${String(hour).padStart(2, "0")}:00`;
    return ok({ label, codeOf, ofItem: null, keyOf: String, nameOf, codeOfKey: Number });
  }
  if (level === "slot") {
    const codeOfKey = (key: string) => (SLOT_KEYS as readonly string[]).indexOf(key);
    const nameOf = (slot: number) => SLOT_LABEL[SLOT_KEYS[slot]!];
    return ok({ label, codeOf, ofItem: null, keyOf: (slot) => SLOT_KEYS[slot]!, nameOf, codeOfKey });
  }
  if (level === "item") {
    const known = await itemNames(db);
    return ok({
      ...{ label, codeOf, ofItem: (no: number) => no, keyOf: (no: number) => known.of.get(no)?.id ?? String(no) },
      nameOf: (no) => known.of.get(no)?.title ?? "",
      imageOf: (no: number) => known.of.get(no)?.image ?? "",
      codeOfKey: (key) => known.numberOf.get(key) ?? -1,
    });
  }
  const { texts, byText } = await loadCodes(db);
  const kind = dimension as "campaign" | "adGroup" | "target" | "term" | "placement";
  const account = await liveAccount(db);
  // Keys without any result get codes from −2 downwards.
  const made: string[] = [];
  const keyOf = (code: number) => (code < -1 ? (made[-2 - code] ?? "") : (texts.get(code) ?? ""));
  const codeOfKey = (key: string) => byText.get(`${kind}/${key}`) ?? -1;
  return ok({
    ...{ label, codeOf, ofItem: null, keyOf, codeOfKey },
    nameOf: (code) => nameOfKey(account, keyOf(code), kind),
    codeFor: (key) => {
      const known = codeOfKey(key);
      return known >= 0 ? known : -1 - made.push(key);
    },
  });
}

/** What a key of the account is called; texts that are no keys stand for themselves. */
function nameOfKey(account: Account, text: string, kind: string): string {
  if (text === "") return kind === "term" ? "(no term: partner media)" : "(not named)";
  const record = account.get(text);
  if (record) return recordName(account, record);
  const isKey = (kind === "campaign" || kind === "adGroup" || kind === "target") && /^[cgpt]:/.test(text);
  return isKey ? `${text} (gone)` : text;
}

/** Fields whose codes are kept beside each other. */
const MOST_FIELDS = 20;

/** Levels that are about the item: its shelf, or a column of the catalogue. Items that left stand together at the end. */
async function itemLevel(db: Database, level: Level, set: string): Promise<Outcome<LevelCodes>> {
  if (level === "shelf") {
    const view = await viewShelfSet(db, set);
    if (!view.ok) return view;
    const { shelves, shelfOf } = view.value;
    const catalogue = await loadCatalogue(db, []);
    const keys = shelves.map((shelf) => shelf.key);
    const labels = shelves.map((shelf) => shelf.name);
    return ok(byItem(LEVEL_LABEL.shelf, keys, labels, catalogue, (row) => shelfOf[row] as number));
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
      return byItem([name, name], values, labels, catalogue, (row) => codes[row] as number);
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
  const ofItem = (no: number) => (no < byNo.length ? (byNo[no] as number) : gone);
  return {
    label,
    ofItem,
    codeOf: (cube) => {
      const column = cube.dimensions.item;
      return column ? (line) => ofItem(column[line] as number) : () => -1;
    },
    keyOf: (code) => (code === gone ? GONE : (keys[code] as string)),
    nameOf: (code) => (code === gone ? "Items no longer in the feed" : (labels[code] as string)),
    codeOfKey: (key) => (key === GONE ? gone : keys.indexOf(key)),
  };
}

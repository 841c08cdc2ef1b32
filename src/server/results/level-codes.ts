import { columnLabel } from "@/core/catalogue/catalogue-columns";
import { asText, cellText } from "@/core/kit/columns";
import { dayLabel, formatDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { SLOT_KEYS, SLOT_LABEL } from "@/core/kit/slots";
import { groupPath } from "@/core/dispatch/export";
import type { Structure } from "@/core/planogram/structure";
import type { Cube } from "@/core/results/cube";
import { dimensionOf, LEVEL_LABEL, type Level } from "@/core/results/levels";
import { UNMATCHED_FROM } from "@/core/results/reports/unmatched";
import type { Database } from "@/db/client";
import { items } from "@/db/schema";
import { isNotNull } from "drizzle-orm";
import { derivedNames } from "../catalogue/derived";
import { loadCatalogue } from "../catalogue/load";
import { loadCodes } from "./load";
import { liveStructure } from "../dispatch/structure";
import { viewShelfSet } from "../shelves/shelves";

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
}

/** IDs, titles and pictures by item number. */
type ItemNames = Map<number, { id: string; title: string; image: string }>;

const keptItems = new WeakMap<Database, { stamp: string; names: ItemNames }>();

/** Names of items: those of the catalogue, those that left it, and IDs that only reports know. Kept while they hold. */
async function itemNames(db: Database): Promise<ItemNames> {
  const { columns, length, revision } = await loadCatalogue(db, ["id", "title", "image"]);
  const { texts, version, byText } = await loadCodes(db);
  const stamp = `${revision}/${version}`;
  const kept = keptItems.get(db);
  if (kept?.stamp === stamp) return kept.names;
  const names: ItemNames = new Map();
  const left = db.select({ no: items.itemNo, id: items.itemId, title: items.title }).from(items);
  for (const { no, id, title } of await left.where(isNotNull(items.toRev))) names.set(no, { id, title, image: "" });
  const numbers = columns["itemNo"];
  for (let row = 0; row < length; row++) {
    const no = numbers?.kind === "number" ? (numbers.values[row] as number) : 0;
    const text = (name: string) => (columns[name] ? cellText(columns[name], row) : "");
    names.set(no, { id: text("id"), title: text("title"), image: text("image") });
  }
  for (const [name, no] of byText) {
    if (!name.startsWith("item/")) continue;
    names.set(UNMATCHED_FROM + no, { id: texts.get(no) ?? "", title: "(not in the catalogue)", image: "" });
  }
  keptItems.set(db, { stamp, names });
  return names;
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
      nameOf: (day) => `${formatDay(day)} ${dayLabel(day)}`.slice(0, 10),
      codeOfKey: (key) => Math.round(Date.parse(`${key}T00:00:00Z`) / 86_400_000),
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
    const byId = new Map([...known].map(([no, { id }]) => [id, no]));
    return ok({
      ...{ label, codeOf, ofItem: (no: number) => no, keyOf: (no: number) => known.get(no)?.id ?? String(no) },
      nameOf: (no) => known.get(no)?.title ?? "",
      imageOf: (no: number) => known.get(no)?.image ?? "",
      codeOfKey: (key) => byId.get(key) ?? -1,
    });
  }
  const { texts, byText } = await loadCodes(db);
  const kind = dimension as "campaign" | "adGroup" | "target" | "term" | "placement";
  const structure = await liveStructure(db);
  return ok({
    ...{ label, codeOf, ofItem: null, keyOf: (code: number) => texts.get(code) ?? "" },
    nameOf: (code) => recordName(structure, texts.get(code) ?? "", kind),
    codeOfKey: (key) => byText.get(`${kind}/${key}`) ?? -1,
  });
}

/** What a key of the account is called; texts that are no keys stand for themselves. */
function recordName(structure: Structure, text: string, kind: string): string {
  const record = structure[text];
  if (text === "") return kind === "term" ? "(no term: partner media)" : "(not named)";
  switch (record?.type) {
    case "campaign":
      return record.name;
    case "adGroup": {
      const campaign = structure[record.campaign];
      const parent = campaign?.type === "campaign" ? campaign.name : "";
      return parent === "" || parent === record.name ? record.name : `${parent} · ${record.name}`;
    }
    case "productGroup": {
      const adGroup = structure[record.adGroup];
      return `${adGroup?.type === "adGroup" ? adGroup.name : ""} · ${groupPath(structure, record)}`;
    }
    case "keyword":
      return `${record.text} (${record.match})`;
    case "listingTarget":
      return record.aim.by === "listing" ? record.aim.listing : `listings of ${record.aim.category}`;
    case "reach":
      return record.kind.replace("-", " ");
    default:
      return (kind === "campaign" || kind === "adGroup" || kind === "target") && /^[cgpt]:/.test(text)
        ? `${text} (gone)`
        : text;
  }
}

/** Levels that are about the item: its shelf, or a column of the catalogue. Items that left stand together at the end. */
async function itemLevel(db: Database, level: Level, set: string): Promise<Outcome<LevelCodes>> {
  const field = level.slice("field:".length);
  const catalogue = await loadCatalogue(db, level === "shelf" ? [] : [field]);
  const numbers = catalogue.columns["itemNo"];
  const itemNos = numbers?.kind === "number" ? numbers.values : new Float64Array(0);
  let of: (row: number) => number;
  let keys: string[];
  let labels: string[];
  let label: [string, string];
  if (level === "shelf") {
    const view = await viewShelfSet(db, set);
    if (!view.ok) return view;
    const { shelves, shelfOf } = view.value;
    of = (row) => shelfOf[row] as number;
    keys = shelves.map((shelf) => shelf.key);
    labels = shelves.map((shelf) => shelf.name);
    label = LEVEL_LABEL.shelf;
  } else {
    const column = catalogue.columns[field];
    if (!column) return fail("field-unknown", `The catalogue has no field "${field}".`, "It may have left the feed.");
    const text = asText(column);
    of = (row) => text.codes[row] as number;
    keys = text.values;
    labels = text.values.map((value) => value || "(no value)");
    const name = columnLabel(field, await derivedNames(db));
    label = [name, name];
  }
  const codeByNo = new Map<number, number>();
  itemNos.forEach((no, row) => codeByNo.set(no, of(row)));
  const gone = keys.length;
  const ofItem = (no: number) => codeByNo.get(no) ?? gone;
  return ok({
    label,
    ofItem,
    codeOf: (cube) => {
      const column = cube.dimensions.item;
      return column ? (line) => ofItem(column[line] as number) : () => -1;
    },
    keyOf: (code) => (code === gone ? GONE : (keys[code] as string)),
    nameOf: (code) => (code === gone ? "Items no longer in the feed" : (labels[code] as string)),
    codeOfKey: (key) => (key === GONE ? gone : keys.indexOf(key)),
  });
}

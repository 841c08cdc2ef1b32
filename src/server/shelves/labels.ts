import { createHash, randomBytes, timingSafeEqual } from "node:crypto";
import { asc } from "drizzle-orm";
import { z } from "zod";
import { toTsv } from "@/core/dispatch/cells";
import { toCsv } from "@/core/dispatch/csv";
import { cellText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { fitLabel, labelClashes, labelsXml, type LabelColumn } from "@/core/shelves/label-feed";
import { shelvesOf } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { labelColumns, labelFeed } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { noteChange } from "../workspaces";
import { listShelfSets, unknownSet } from "./sets";
import { membershipColumn } from "./view";

/** Sets whose labels go out at once; which of them a channel takes is its own matter. */
const MOST_COLUMNS = 200;

export const labelColumnsSchema = z.object({
  columns: z
    .array(
      z.object({
        name: z.string().trim().min(1, "A column needs a heading.").max(60),
        setKey: z.string().max(40),
      }),
    )
    .max(MOST_COLUMNS),
});

export const LABEL_FORMATS = ["csv", "tsv", "xml"] as const;
export type LabelFormat = (typeof LABEL_FORMATS)[number];

export interface LabelSettings {
  columns: (LabelColumn & { setName: string })[];
  clashes: string[];
  /** What a channel's address of the feed ends with. */
  token: string;
  fetchedAt: number | null;
  /** Items whose labels are others than when it was last fetched; null before the first time. */
  changedSince: number | null;
  items: number;
}

async function columnsOf(db: Database) {
  const sets = new Map((await listShelfSets(db)).map(({ definition }) => [definition.key, definition]));
  const rows = await db.select().from(labelColumns).orderBy(asc(labelColumns.no));
  return rows.flatMap((row) => {
    const set = sets.get(row.setKey);
    return set ? [{ ...row, setName: set.name, shelves: shelvesOf(set).map(({ name }) => name) }] : [];
  });
}

/** The feed's row, made when first asked for. */
async function feedRow(db: Database): Promise<typeof labelFeed.$inferSelect> {
  await db
    .insert(labelFeed)
    .values({ id: 1, token: randomBytes(24).toString("base64url") })
    .onConflictDoNothing();
  const [row] = await db.select().from(labelFeed);
  return row!;
}

/** Which set writes which label column, and how the feed of them stands. */
export async function labelSettings(db: Database): Promise<LabelSettings> {
  const columns = await columnsOf(db);
  const { token, fetchedAt, fetched } = await feedRow(db);
  const { prints, rows } = await labelTable(db);
  return {
    columns: columns.map(({ name, setKey, setName }) => ({ name, setKey, setName })),
    clashes: labelClashes(columns),
    ...{ token, fetchedAt, items: rows.length },
    changedSince: fetched ? countChanged(fetched, prints) : null,
  };
}

/** Settles which set writes which column. */
export async function setLabelColumns(
  db: Database,
  { columns }: z.infer<typeof labelColumnsSchema>,
): Promise<Outcome<LabelSettings>> {
  const sets = (await listShelfSets(db)).map(({ definition: { key } }) => key);
  const unknown = columns.find(({ setKey }) => !sets.includes(setKey));
  if (unknown) return unknownSet(unknown.setKey);
  await db.transaction(async (tx) => {
    await tx.delete(labelColumns);
    if (columns.length > 0) await tx.insert(labelColumns).values(columns.map((column, no) => ({ no, ...column })));
  });
  await noteChange(db, "Label columns settled", columns.map(({ name }) => name).join(", "), "shelves");
  return ok(await labelSettings(db));
}

/** A new token, so that the old address gives nothing any more. */
export async function renewLabelToken(db: Database): Promise<LabelSettings> {
  await feedRow(db);
  await db.update(labelFeed).set({ token: randomBytes(24).toString("base64url"), fetchedAt: null, fetched: null });
  await noteChange(db, "Address of the label feed renewed", "", "shelves");
  return labelSettings(db);
}

interface LabelTable {
  headings: string[];
  rows: string[][];
  /** A print of each item's labels, by item number. */
  prints: Map<number, number>;
}

async function labelTable(db: Database): Promise<LabelTable> {
  const columns = await columnsOf(db);
  const catalogue = await loadCatalogue(db, ["id"]);
  const id = catalogue.columns["id"];
  const itemNo = catalogue.columns["itemNo"];
  const labels = await Promise.all(
    columns.map(async ({ setKey }) => {
      const column = (await membershipColumn(db, setKey))!;
      const fitted = (column.labels ?? column.values).map(fitLabel);
      return (row: number) => fitted[column.codes[row]!]!;
    }),
  );
  const prints = new Map<number, number>();
  const rows = Array.from({ length: catalogue.length }, (_, row) => {
    const cells = labels.map((label) => label(row));
    if (itemNo?.kind === "number") prints.set(itemNo.values[row]!, printOf(cells));
    return [id ? cellText(id, row) : "", ...cells];
  });
  return { headings: ["id", ...columns.map(({ name }) => name)], rows, prints };
}

/** A short print of texts (32-bit FNV-1a). */
function printOf(texts: string[]): number {
  let hash = 0x811c9dc5;
  for (const text of texts) {
    for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
    hash = Math.imul(hash ^ 0x1f, 0x01000193);
  }
  return hash >>> 0;
}

function encodePrints(prints: Map<number, number>): Buffer {
  const flat = new Uint32Array(prints.size * 2);
  [...prints].forEach(([no, print], i) => flat.set([no, print], i * 2));
  return Buffer.from(flat.buffer);
}

function countChanged(stored: Buffer, prints: Map<number, number>): number {
  const flat = new Uint32Array(new Uint8Array(stored).buffer);
  const before = new Map<number, number>();
  for (let i = 0; i < flat.length; i += 2) before.set(flat[i]!, flat[i + 1]!);
  let changed = 0;
  for (const [no, print] of prints) if (before.get(no) !== print) changed++;
  for (const no of before.keys()) if (!prints.has(no)) changed++;
  return changed;
}

const TYPES: Record<LabelFormat, string> = {
  csv: "text/csv; charset=utf-8",
  tsv: "text/tab-separated-values; charset=utf-8",
  xml: "application/xml; charset=utf-8",
};

function asFile({ headings, rows }: LabelTable, format: LabelFormat) {
  const write = { csv: toCsv, tsv: toTsv, xml: labelsXml }[format];
  return { file: write(headings, rows), name: `labels.${format}`, contentType: TYPES[format] };
}

/** The label feed as a file. */
export async function labelFile(db: Database, format: LabelFormat) {
  return asFile(await labelTable(db), format);
}

/** The label feed for a channel that knows the token; what it got is kept, to tell what changed since. */
export async function fetchLabels(db: Database, token: string, format: string) {
  const row = await feedRow(db);
  const print = (text: string) => createHash("sha256").update(text).digest();
  if (!timingSafeEqual(print(token), print(row.token)) || !(LABEL_FORMATS as readonly string[]).includes(format)) {
    return fail(
      "label-feed-unknown",
      "There is no label feed at this address.",
      "Copy the address from the Labels view.",
    );
  }
  const table = await labelTable(db);
  await db.update(labelFeed).set({ fetchedAt: Date.now(), fetched: encodePrints(table.prints) });
  return asFile(table, format as LabelFormat);
}

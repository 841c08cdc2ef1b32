import { and, asc, desc, eq, isNotNull, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import { dayAt, formatDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { CHAPTER_KEYS, chapterOf, type ChapterKey, type MadeChapter } from "@/core/stocktake/chapters";
import { compareStocktakes, type Comparison } from "@/core/stocktake/compare";
import type { Finding } from "@/core/stocktake/finding";
import { inOrder, type Report, type StocktakeHead } from "@/core/stocktake/report";
import type { Database } from "@/db/client";
import { stocktakeChapters, stocktakeDismissals, stocktakes, stocktakeStyle } from "@/db/schema";
import type { WorkspaceInfo } from "../workspaces";
import { noteChange } from "../workspaces";

/** A stocktake in the list. */
export interface StocktakeLine {
  id: number;
  at: number;
  who: string;
  name: string;
  from: number;
  to: number;
  findings: number;
  /** Ad sales ÷ spend of its window; null without spend. */
  roas: number | null;
}

/** A stocktake without its chapters. */
export interface StocktakeView {
  id: number;
  at: number;
  who: string;
  name: string;
  head: StocktakeHead;
  /** Chapters in their order, and what each lacks; those that somebody left out come with `isLeftOut`. */
  chapters: { key: ChapterKey; lacks: string | null; isLeftOut: boolean }[];
  remarks: Partial<Record<ChapterKey, string>>;
  dismissed: { finding: string; reason: string; who: string; at: number }[];
  style: { name: string; logo: string };
}

type Row = typeof stocktakes.$inferSelect & { head: StocktakeHead };

/** Stocktakes that are all there, newest first. */
export async function listStocktakes(db: Database): Promise<StocktakeLine[]> {
  const aside = new Set((await dismissals(db)).map(({ finding }) => finding));
  return (await stocktakesInShort(db)).map(({ keys, cost, revenue, ...line }) => ({
    ...line,
    findings: keys.filter((key) => !aside.has(key)).length,
    roas: cost > 0 ? revenue / cost : null,
  }));
}

/** Stocktakes without what they hold: their heads name hundreds of items each. */
async function stocktakesInShort(db: Database) {
  const of = <T>(path: string) => sql<T>`${stocktakes.head} ->> ${path}`;
  const rows = await db
    .select({
      ...{ id: stocktakes.id, at: stocktakes.at, who: stocktakes.who, name: stocktakes.name },
      ...{ from: of<number>("$.from"), to: of<number>("$.to") },
      ...{ cost: of<number>("$.total.cost"), revenue: of<number>("$.total.revenue") },
      keys: sql<string>`(SELECT json_group_array(value ->> 'key') FROM json_each(${stocktakes.head}, '$.findings'))`,
    })
    .from(stocktakes)
    .where(and(isNotNull(stocktakes.head), isNull(stocktakes.removedAt)))
    .orderBy(desc(stocktakes.id))
    .limit(MOST_LISTED);
  return rows.map((row) => ({ ...row, keys: JSON.parse(row.keys) as string[] }));
}

/** Stocktakes that the list holds. */
const MOST_LISTED = 200;

async function findRow(db: Database, id: number): Promise<Outcome<Row>> {
  const [row] = await db.select().from(stocktakes).where(eq(stocktakes.id, id));
  return row?.head && row.removedAt === null ? ok(row as Row) : unknown(id);
}

const unknown = (id: number) => fail("stocktake-unknown", `There is no stocktake ${id}.`);

const dismissals = (db: Database) => db.select().from(stocktakeDismissals).orderBy(asc(stocktakeDismissals.at));

async function styleOf(db: Database): Promise<{ name: string; logo: string }> {
  const [row] = await db.select().from(stocktakeStyle);
  return { name: row?.name ?? "", logo: row?.logo ?? "" };
}

/** One stocktake: what was found, and which chapters it has. */
export async function viewStocktake(db: Database, id: number): Promise<Outcome<StocktakeView>> {
  const found = await findRow(db, id);
  if (!found.ok) return found;
  const { at, who, name, head, remarks, chapters: order } = found.value;
  const made = new Map((await chaptersOf(db, id)).map(({ key, lacks }) => [key, lacks]));
  const chosen = order ?? CHAPTER_KEYS;
  const line = (key: ChapterKey, isLeftOut: boolean) => ({ key, lacks: made.get(key) ?? null, isLeftOut });
  return ok({
    ...{ id, at, who, name, head, remarks },
    chapters: [
      ...chosen.map((key) => line(key, false)),
      ...CHAPTER_KEYS.filter((key) => !chosen.includes(key)).map((key) => line(key, true)),
    ],
    dismissed: await dismissals(db),
    style: await styleOf(db),
  });
}

async function chaptersOf(db: Database, id: number): Promise<MadeChapter[]> {
  const rows = await db
    .select({ made: stocktakeChapters.made })
    .from(stocktakeChapters)
    .where(eq(stocktakeChapters.stocktake, id));
  return rows.map(({ made }) => made);
}

/** All chapters of a stocktake in their order, as its report has them. */
export async function loadReport(db: Database, info: WorkspaceInfo, id: number): Promise<Outcome<Report>> {
  const found = await findRow(db, id);
  if (!found.ok) return found;
  const { at, name, head, remarks, chapters: order } = found.value;
  return ok({
    ...{ name, head, remarks },
    on: formatDay(dayAt(at, info.timeZone)),
    chapters: inOrder(await chaptersOf(db, id), order),
    dismissed: new Map((await dismissals(db)).map(({ finding, reason }) => [finding, reason])),
    house: await styleOf(db),
  });
}

/** A chapter of a stocktake with the findings that belong to it. */
export interface ChapterView extends MadeChapter {
  findings: Finding[];
}

/** The chapters of a stocktake, all of them or one. */
export async function viewChapters(db: Database, id: number, only: ChapterKey | null): Promise<Outcome<ChapterView[]>> {
  const found = await findRow(db, id);
  if (!found.ok) return found;
  const { head, chapters: order } = found.value;
  const made = inOrder(await chaptersOf(db, id), only ? [only] : order);
  return ok(
    made.map((chapter) => ({
      ...chapter,
      findings: head.findings.filter(({ fault }) => chapterOf(fault) === chapter.key),
    })),
  );
}

export const dismissSchema = z.object({
  finding: z.string().min(1).max(120),
  /** Why; empty takes the finding up again. */
  reason: z.string().trim().max(400),
});

/** Puts a finding aside with a reason, in this and every later stocktake, or takes it up again. */
export async function dismissFinding(db: Database, who: string, { finding, reason }: z.output<typeof dismissSchema>) {
  await db.transaction(async (tx) => {
    await tx.delete(stocktakeDismissals).where(eq(stocktakeDismissals.finding, finding));
    if (reason !== "") await tx.insert(stocktakeDismissals).values({ finding, reason, who, at: Date.now() });
    const what = reason === "" ? `Finding “${finding}” taken up again` : `Finding “${finding}” put aside`;
    await noteChange(tx, what, reason, "stocktake");
  });
  return ok({ dismissed: await dismissals(db) });
}

const chapterKey = z.enum(CHAPTER_KEYS as [ChapterKey, ...ChapterKey[]]);

export const reportChangeSchema = z.object({
  name: z.string().trim().min(1).max(120).optional(),
  remark: z.object({ chapter: chapterKey, text: z.string().trim().max(5000) }).optional(),
  /** Chapters in their order; those left out are not in the report. Null for all as they come. */
  chapters: z.array(chapterKey).max(CHAPTER_KEYS.length).nullable().optional(),
});

/** Changes what a person adds to a stocktake: name, remarks, which chapters in which order. What was found stays. */
export async function changeReport(
  db: Database,
  id: number,
  { name, remark, chapters }: z.output<typeof reportChangeSchema>,
): Promise<Outcome<StocktakeView>> {
  const found = await findRow(db, id);
  if (!found.ok) return found;
  if (chapters && new Set(chapters).size < chapters.length)
    return fail("chapters-twice", "A chapter stands there twice.");
  const remarks = { ...found.value.remarks };
  if (remark) {
    if (remark.text === "") delete remarks[remark.chapter];
    else remarks[remark.chapter] = remark.text;
  }
  await db
    .update(stocktakes)
    .set({ remarks, ...(name === undefined ? {} : { name }), ...(chapters === undefined ? {} : { chapters }) })
    .where(eq(stocktakes.id, id));
  return viewStocktake(db, id);
}

/** Takes a stocktake away with its remarks, or brings it back. Findings that were put aside stay so. */
export async function removeStocktake(db: Database, id: number, isBack = false): Promise<Outcome<{ id: number }>> {
  const rows = await db
    .update(stocktakes)
    .set({ removedAt: isBack ? null : Date.now() })
    .where(and(eq(stocktakes.id, id), isNotNull(stocktakes.head)))
    .returning({ name: stocktakes.name });
  if (rows.length === 0) return unknown(id);
  await noteChange(db, `Stocktake “${rows[0]!.name}” ${isBack ? "brought back" : "taken away"}`, "", "stocktake");
  return ok({ id });
}

/** Pictures larger than this are no letterhead. */
const MOST_LOGO = 300_000;

export const styleSchema = z.object({
  name: z.string().trim().max(120),
  logo: z
    .string()
    .max(MOST_LOGO)
    .refine(
      (text) => text === "" || /^data:image\/(png|jpeg|svg\+xml);base64,[A-Za-z0-9+/=]+$/.test(text),
      "a PNG, JPEG or SVG picture as a data address",
    ),
});

/** Sets how reports are headed. */
export async function setStyle(db: Database, style: z.output<typeof styleSchema>) {
  await db
    .insert(stocktakeStyle)
    .values({ id: 1, ...style })
    .onConflictDoUpdate({ target: stocktakeStyle.id, set: style });
  return ok(style);
}

/** Two stocktakes beside each other, the one taken first as the earlier. */
export async function compareTwo(db: Database, id: number, other: number): Promise<Outcome<Comparison>> {
  const [a, b] = [await findRow(db, Math.min(id, other)), await findRow(db, Math.max(id, other))];
  if (!a.ok) return a;
  if (!b.ok) return b;
  if (id === other) return fail("stocktake-same", "A stocktake beside itself tells nothing.");
  const earlier = new Set((await stocktakesInShort(db)).flatMap(({ id: one, keys }) => (one < a.value.id ? keys : [])));
  return ok(compareStocktakes(a.value.head, b.value.head, earlier));
}

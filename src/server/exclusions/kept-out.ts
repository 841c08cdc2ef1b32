import { sql } from "drizzle-orm";
import { recordName } from "@/core/account/names";
import type { Account } from "@/core/account/account";
import type { Exclusion } from "@/core/account/records/exclusion";
import type { Negative } from "@/core/account/records/negative";
import { indexAddresses, indexTerms, stoppedTerms } from "@/core/exclusions/replay";
import { cellText } from "@/core/kit/columns";
import { dayAt, formatDay, windowBefore, type Window } from "@/core/kit/days";
import { noSums, type AdMeasure, type Sums } from "@/core/kit/metrics";
import { addLine, type Cube } from "@/core/results/cube";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { rowsById } from "../catalogue/item-rows";
import { remember } from "../read/memo";
import { placeTeller } from "../places/place-kinds";
import { loadCube } from "../results/cubes";
import { loadCodes, resultDays, resultsVersion } from "../results/load";
import { missingMeasures } from "../results/reported";
import type { WorkspaceInfo } from "../workspaces";

/** What a span of days brought. Money in mills; what no report tells is null. */
export interface SpanSums {
  days: number;
  impressions: number | null;
  clicks: number | null;
  cost: number | null;
  orders: number | null;
  revenue: number | null;
}

/** Something that is kept out of ads, with what that did. */
export interface KeptOut {
  key: string;
  what: "item" | "term" | "listing" | "placement";
  match: "exact" | "phrase" | "";
  value: string;
  /** The title of an item; "" for others. */
  title: string;
  /** Key of the campaign or ad group; null is everywhere. */
  scope: string | null;
  scopeName: string;
  reason: Negative["reason"];
  reviewOn: string | null;
  /** Whether the day to look again has come. */
  isDue: boolean;
  who: string;
  /** The first day that it held, or null while it waits in the basket. */
  since: string | null;
  /** The thirty days before it held, and all days since; null where results do not reach. */
  before: SpanSums | null;
  after: SpanSums | null;
}

/** Days before, which those since are held against. */
const BEFORE_DAYS = 30;
/** First days whose effect is worked out; entries older than those stand without. */
const MOST_STARTS = 24;

/** Everything that is kept out: due ones first, then those that came last. */
export async function keptOut(db: Database, info: WorkspaceInfo): Promise<{ version: number; entries: KeptOut[] }> {
  const { planned, version, sealedPart } = await readAccount(db);
  const { revision } = await loadCatalogue(db, []);
  const today = formatDay(dayAt(Date.now(), info.timeZone));
  const stamp = [version, sealedPart, revision, await resultsVersion(db), today];
  return remember(db, "kept out", stamp, async () => {
    const sent = await sentSince(db);
    const waiting = new Map((await readAccount(db)).rows.map(({ key, who }) => [key, who]));
    const titles = await titlesOf(db);
    const records: (Exclusion | Negative)[] = [...planned.all("exclusion"), ...planned.all("negative")];
    const entries = records.map((record): KeptOut => {
      const isItem = record.type === "exclusion";
      const scope = isItem ? record.campaign : record.scope;
      const scoped = scope === null ? undefined : planned.get(scope);
      const { from, who } = sent.get(record.key) ?? { from: null, who: waiting.get(record.key) ?? "" };
      return {
        ...{ key: record.key, what: isItem ? "item" : record.what, value: isItem ? record.item : record.value },
        match: !isItem && record.what === "term" ? record.match : "",
        title: isItem ? (titles(record.item) ?? "") : "",
        ...{ scope, scopeName: scope === null ? "everywhere" : scoped ? recordName(planned, scoped) : "gone" },
        ...{ reason: record.reason, reviewOn: record.reviewOn },
        isDue: record.reviewOn !== null && record.reviewOn <= today,
        ...{ who, since: from === null ? null : formatDay(from), before: null, after: null },
      };
    });
    await addEffects(db, planned, entries, sent);
    const rank = ({ isDue, since }: KeptOut) => `${isDue ? 1 : 0}${since ?? "9"}`;
    entries.sort((a, b) => (rank(a) < rank(b) ? 1 : rank(a) > rank(b) ? -1 : a.value < b.value ? -1 : 1));
    return { version, entries };
  });
}

/** The first day that each exclusion and negative held, by the dispatch that made it last, and who sent it. */
async function sentSince(db: Database): Promise<Map<string, { from: number | null; who: string }>> {
  const rows = await db.all<{ key: string; from: number | null; who: string }>(
    sql`SELECT c.key AS key, d.from_day AS "from", d.who AS who FROM dispatch_changes c JOIN dispatches d ON d.id = c.dispatch
        WHERE c.before IS NULL AND (c.key GLOB 'x:*' OR c.key GLOB 'n:*') ORDER BY d.id`,
  );
  return new Map(rows.map(({ key, from, who }) => [key, { from, who }]));
}

async function titlesOf(db: Database): Promise<(item: string) => string | null> {
  const rows = await rowsById(db);
  const { title } = (await loadCatalogue(db, ["title"])).columns;
  return (item) => {
    const row = rows.get(item);
    return row === undefined || !title ? null : cellText(title, row);
  };
}

/** Works out what came before each entry and since, from the report that tells it: items, terms or placements. */
async function addEffects(
  db: Database,
  account: Account,
  entries: KeptOut[],
  sent: Map<string, { from: number | null }>,
): Promise<void> {
  const span = await resultDays(db);
  if (!span) return;
  const byStart = new Map<number, KeptOut[]>();
  for (const entry of entries) {
    const from = sent.get(entry.key)?.from ?? null;
    if (from === null || from > span.to) continue;
    const list = byStart.get(from) ?? [];
    byStart.set(from, list);
    list.push(entry);
  }
  const starts = [...byStart.keys()].sort((a, b) => b - a).slice(0, MOST_STARTS);
  for (const from of starts) {
    const since = { from, to: span.to };
    const before = windowBefore({ from, to: from + BEFORE_DAYS - 1 });
    const known = { from: Math.max(before.from, span.from), to: before.to };
    const list = byStart.get(from)!;
    if (known.from <= known.to) await addSpan(db, account, list, known, "before");
    await addSpan(db, account, list, since, "after");
  }
}

async function addSpan(
  db: Database,
  account: Account,
  entries: KeptOut[],
  window: Window,
  side: "before" | "after",
): Promise<void> {
  const sources = [
    ["item", (entry: KeptOut) => entry.what === "item"],
    ["term", (entry: KeptOut) => entry.what === "term" || entry.what === "listing"],
    ["placement", (entry: KeptOut) => entry.what === "placement"],
  ] as const;
  for (const [source, isOf] of sources) {
    const own = entries.filter(isOf);
    if (own.length === 0) continue;
    const { ads } = await loadCube(db, source, window, false);
    const sums = await sumsOf(db, account, own, ads, source);
    const missing = await missingMeasures(db, source, window, ads);
    const days = window.to - window.from + 1;
    own.forEach((entry, i) => {
      const known = (key: AdMeasure) => (missing.includes(key) ? null : sums[i]![key]);
      entry[side] = {
        ...{ days, impressions: known("impressions"), clicks: known("clicks"), cost: known("cost") },
        ...{ orders: known("orders"), revenue: known("revenue") },
      };
    });
  }
}

/** The sums of each entry's lines in a report, within its scope. */
async function sumsOf(
  db: Database,
  account: Account,
  entries: KeptOut[],
  ads: Cube,
  source: "item" | "term" | "placement",
): Promise<Sums[]> {
  const { texts } = await loadCodes(db);
  const codes = ads.dimensions[source]!;
  const entriesOf = new Map<number, number[]>();
  const note = (code: number, entry: number) => {
    const list = entriesOf.get(code);
    if (list) list.push(entry);
    else entriesOf.set(code, [entry]);
  };
  if (source === "item") {
    const rows = await rowsById(db);
    const itemNo = (await loadCatalogue(db, [])).columns["itemNo"];
    entries.forEach(({ value }, i) => {
      const row = rows.get(value);
      if (row !== undefined && itemNo?.kind === "number") note(itemNo.values[row]!, i);
    });
  } else {
    const distinct = [...new Set(codes)];
    const labels = distinct.map((code) => texts.get(code) ?? "");
    const tell = await placeTeller(db);
    const index =
      source === "placement" ? indexAddresses(labels) : indexTerms(labels, (label) => tell(label) === "listing");
    entries.forEach(({ what, match, value, scope }, i) => {
      const thought = { what: what as Negative["what"], match: match || "exact", value, scope };
      for (const place of stoppedTerms(thought, index)) note(distinct[place]!, i);
    });
  }
  const sums = entries.map(() => noSums());
  const { campaign, adGroup } = ads.dimensions;
  for (let line = 0; line < ads.length; line++) {
    for (const i of entriesOf.get(codes[line]!) ?? []) {
      const { scope } = entries[i]!;
      const isIn =
        scope === null ||
        (campaign && texts.get(campaign[line]!) === scope) ||
        (adGroup && texts.get(adGroup[line]!) === scope);
      if (isIn) addLine(sums[i]!, ads, line, false);
    }
  }
  return sums;
}

import { eq, sql } from "drizzle-orm";
import { LINK_STATE_LABEL, type LinkState } from "@/core/catalogue/check-page";
import { FAULTS, faultsIn, type FaultCode } from "@/core/catalogue/faults";
import { isBuyable } from "@/core/catalogue/field-changes";
import { AVAILABILITIES, foldWord } from "@/core/catalogue/fields";
import { FINDINGS, findingsIn, SEVERITIES, type FindingCode, type Severity } from "@/core/catalogue/findings/finding";
import { repairOf, type Repair } from "@/core/catalogue/findings/repairs";
import { columnsOfSource, mappingSchema } from "@/core/catalogue/mapping";
import { cellText, type Column } from "@/core/kit/columns";
import { ok, type Outcome } from "@/core/kit/outcome";
import { z } from "zod";
import type { Database } from "@/db/client";
import { remember } from "../../read/memo";
import { feeds, setAside, workspace } from "@/db/schema";
import { loadWindow, type WindowResults } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { noteChange } from "../../workspaces";
import { startFinish } from "../../catalogue/finish";
import { linkFaults } from "./link-check";
import { loadCatalogue } from "../../catalogue/load";
import { inForce } from "../../catalogue/revisions";

export interface Diagnostic {
  code: string;
  severity: Severity;
  label: string;
  why: string;
  repair: string;
  /** Items, or rows for those kept out. */
  count: number;
  /** Share of the spend of the last 30 days that went to these items; null for rows kept out, or without results. */
  spendShare: number | null;
  /** Whether the rows were set aside rather than kept. */
  isAside: boolean;
  action: Repair | null;
}

const SOLD_OUT_SPEND = {
  code: "soldout-spend",
  severity: "money" as const,
  label: "Sold out and still paid for",
  why: "They had spend in the last 30 days and can't be bought now.",
  repair: "Exclude them, or let campaigns serve items in stock only.",
};

const LINK_TEXTS: Partial<Record<LinkState, [severity: Severity, why: string, repair: string]>> = {
  gone: ["money", "The click is paid and the shopper finds no page.", "Correct the link, or take the item out."],
  "sold-out": ["money", "The page says it is sold out while the feed says it can be bought.", "Refresh the feed."],
  variant: ["repair", "The page is that of another item.", "Correct the link."],
  price: ["repair", "Shoppers see another price than in the ad; channels refuse such items.", "Refresh the feed."],
  moved: ["repair", "The link no longer leads to the item.", "Correct the link."],
  unreachable: ["note", "The page could not be looked at.", "Check again later."],
};

async function asideCounts(db: Database, revision: number): Promise<Map<FaultCode, number>> {
  const counts = new Map<FaultCode, number>();
  const rows = await db
    .select({ faults: setAside.faults, count: sql<number>`count(*)` })
    .from(setAside)
    .where(eq(setAside.revision, revision))
    .groupBy(setAside.faults);
  for (const { faults, count } of rows) {
    for (const code of faultsIn(faults)) counts.set(code, (counts.get(code) ?? 0) + count);
  }
  return counts;
}

interface Tally {
  count: number;
  cost: number;
}

/** Items and spend of every fault and finding that a column of bits holds. */
function tally<T extends string>(column: Column | undefined, costs: Float64Array, read: (bits: number) => T[]) {
  const found = new Map<T, Tally>();
  if (column?.kind !== "number") return found;
  // Few different sets of findings occur, so each is taken apart once.
  const known = new Map<number, T[]>();
  column.values.forEach((bits, row) => {
    if (bits === 0) return;
    let codes = known.get(bits);
    if (!codes) known.set(bits, (codes = read(bits)));
    for (const code of codes) {
      const entry = found.get(code) ?? { count: 0, cost: 0 };
      entry.count++;
      entry.cost += costs[row] ?? 0;
      found.set(code, entry);
    }
  });
  return found;
}

/**
 * What is wrong with the catalogue: rows kept out, items that cost money for nothing, what is worth repairing, what is
 * good to know. Only what occurs is listed; gravest first, then by spend and count.
 */
export async function diagnose(db: Database): Promise<Diagnostic[]> {
  const now = await inForce(db);
  if (!now) return [];
  const results = await loadWindow(db, await windowOfDays(db, 30));
  const links = await linkFaults(db);
  // Pages are looked at one by one, without a revision; what they were found to be is not kept.
  if (links.size > 0) return makeDiagnostics(db, now, results, links);
  return remember(db, "diagnostics", [now.revision.id, ...results.stamp], () =>
    makeDiagnostics(db, now, results, links),
  );
}

async function makeDiagnostics(
  db: Database,
  now: NonNullable<Awaited<ReturnType<typeof inForce>>>,
  results: WindowResults,
  links: Awaited<ReturnType<typeof linkFaults>>,
): Promise<Diagnostic[]> {
  const { columns, length } = await loadCatalogue(db, ["warnings", "findings", "id", "availability", "brand"]);
  const costs = results.rows.cost;
  let total = results.gone.cost as number;
  for (const cost of costs) total += cost;
  const share = (cost: number) => (total > 0 ? cost / total : null);
  const list: Diagnostic[] = [];
  const aside = await asideCounts(db, now.reading.id);
  for (const fault of FAULTS.filter(({ grave }) => grave)) {
    const count = aside.get(fault.code) ?? 0;
    const { code, label, why, repair } = fault;
    const common = {
      code,
      severity: "grave" as const,
      label,
      why,
      repair,
      spendShare: null,
      isAside: true,
      action: null,
    };
    if (count > 0) list.push({ ...common, count });
  }
  const warnings = tally(columns["warnings"], costs, faultsIn);
  for (const { code, label, why, repair } of FAULTS) {
    const found = warnings.get(code);
    if (!found) continue;
    const action: Repair | null =
      code === "availability-unknown" ? { kind: "teach", label: "Say what the words mean" } : null;
    list.push({
      ...{ code, severity: "repair", label, why, repair, count: found.count, spendShare: share(found.cost) },
      ...{ isAside: false, action },
    });
  }
  const findings = tally<FindingCode>(columns["findings"], costs, findingsIn);
  const details = now.revision.findings ?? {};
  for (const { code, severity, label, why, repair } of FINDINGS) {
    const found = findings.get(code);
    if (!found) continue;
    const action = repairOf(code, details, brandsOf(columns["brand"]));
    list.push({
      ...{ code, severity, label, why, repair, count: found.count, spendShare: share(found.cost) },
      ...{ isAside: false, action },
    });
  }
  const soldOut = { count: 0, cost: 0 };
  const byLink = new Map<LinkState, Tally>();
  for (let row = 0; row < length; row++) {
    const cost = costs[row] ?? 0;
    if (cost > 0 && columns["availability"] && !isBuyable(cellText(columns["availability"], row))) {
      soldOut.count++;
      soldOut.cost += cost;
    }
    const link = links.size > 0 ? links.get(cellText(columns["id"]!, row)) : undefined;
    if (!link) continue;
    const entry = byLink.get(link.state) ?? { count: 0, cost: 0 };
    entry.count++;
    entry.cost += cost;
    byLink.set(link.state, entry);
  }
  if (soldOut.count > 0) {
    const action: Repair = { kind: "exclude", label: "Exclude them", reason: "out of stock" };
    list.push({ ...SOLD_OUT_SPEND, count: soldOut.count, spendShare: share(soldOut.cost), isAside: false, action });
  }
  for (const [state, found] of byLink) {
    const [severity, why, repair] = LINK_TEXTS[state] ?? ["note", "", ""];
    const common = { code: `link-${state}`, severity, label: LINK_STATE_LABEL[state], why, repair };
    const action: Repair | null =
      state === "gone" || state === "sold-out"
        ? { kind: "exclude", label: "Exclude them", reason: "out of stock" }
        : null;
    list.push({ ...common, count: found.count, spendShare: share(found.cost), isAside: false, action });
  }
  list.sort(
    (a, b) =>
      SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity) ||
      (b.spendShare ?? 0) - (a.spendShare ?? 0) ||
      b.count - a.count,
  );
  return list;
}

function brandsOf(column: Column | undefined): string[] {
  if (column?.kind !== "text") return [];
  const counts = new Uint32Array(column.values.length);
  for (const code of column.codes) counts[code] = (counts[code] as number) + 1;
  return column.values
    .map((value, code) => ({ value, count: counts[code] as number }))
    .filter(({ value, count }) => value !== "" && count > 0)
    .sort((a, b) => b.count - a.count)
    .map(({ value }) => value);
}

/** Availability words of the last reading that were not understood, with how many items have each. */
export async function unknownAvailability(db: Database): Promise<{ word: string; items: number }[]> {
  const now = await inForce(db);
  if (!now?.reading.headings) return [];
  const mapping = mappingSchema.parse(now.feed.mapping);
  const [column] = columnsOfSource(mapping.columns.availability);
  const at = column === undefined ? -1 : now.reading.headings.indexOf(column);
  if (at < 0) return [];
  const bit = 1 << FAULTS.findIndex(({ code }) => code === "availability-unknown");
  const { rows } = await db.$client.execute({
    sql: "SELECT cells ->> CAST(?1 AS INTEGER) AS word, count(*) AS items FROM items WHERE to_rev IS NULL AND warnings & ?2 <> 0 GROUP BY word ORDER BY items DESC LIMIT 50",
    args: [at, bit],
  });
  return rows.map((row) => ({ word: String(row[0] ?? ""), items: Number(row[1]) }));
}

export const teachSchema = z.object({ words: z.record(z.string().max(200), z.enum(AVAILABILITIES)) });

/** Keeps what availability words of this shop mean; it holds from the next reading on. */
export async function teachAvailability(db: Database, words: z.infer<typeof teachSchema>["words"]): Promise<void> {
  const now = await inForce(db);
  if (!now) return;
  const mapping = mappingSchema.parse(now.feed.mapping);
  for (const [word, meaning] of Object.entries(words)) mapping.availability[foldWord(word)] = meaning;
  // The version goes too, so that the next fetch reads the feed even when it has not changed.
  await db.update(feeds).set({ mapping, version: null }).where(eq(feeds.key, now.feed.key));
  await noteChange(db, `Availability words learned: ${Object.keys(words).join(", ")}`, "", "catalogue");
}

/** Takes proposed families as families, or leaves them again. */
export async function takeFamilies(db: Database, take: boolean): Promise<Outcome<{ job: string | null }>> {
  await db.update(workspace).set({ proposedFamilies: take });
  await noteChange(db, take ? "Proposed families taken" : "Proposed families left", "", "catalogue");
  return ok({ job: await startFinish(db) });
}

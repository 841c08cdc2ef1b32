import { eq, sql } from "drizzle-orm";
import { LINK_STATE_LABEL, type LinkState } from "@/core/catalogue/check-page";
import { FAULTS, faultsIn, type FaultCode } from "@/core/catalogue/faults";
import { isBuyable } from "@/core/catalogue/field-changes";
import type { FoundFindings } from "@/core/catalogue/findings/find";
import { FINDINGS, findingsIn, SEVERITIES, type FindingCode, type Severity } from "@/core/catalogue/findings/finding";
import { repairOf, type Repair } from "@/core/catalogue/findings/repairs";
import { cellText, type Column } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { rememberReady } from "../../read/ready";
import { setAside } from "@/db/schema";
import { loadWindow, type WindowResults } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { linkFaults } from "../../catalogue/link-faults";
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
  return rememberReady(db, "diagnostics", [now.revision.id, ...results.stamp], () =>
    makeDiagnostics(db, now, results, links),
  );
}

interface Basis {
  columns: Record<string, Column>;
  length: number;
  /** Mills of each row over the last 30 days. */
  costs: Float64Array;
  /** Share of all spend that an amount is; null without spend. */
  share: (cost: number) => number | null;
}

async function makeDiagnostics(
  db: Database,
  now: NonNullable<Awaited<ReturnType<typeof inForce>>>,
  results: WindowResults,
  links: LinkFaults,
): Promise<Diagnostic[]> {
  const { columns, length } = await loadCatalogue(db, ["warnings", "findings", "id", "availability", "brand"]);
  const costs = results.rows.cost;
  let total = results.gone.cost as number;
  for (const cost of costs) total += cost;
  const basis: Basis = { columns, length, costs, share: (cost) => (total > 0 ? cost / total : null) };
  const list = [
    ...keptOut(await asideCounts(db, now.reading.id)),
    ...faulty(basis),
    ...found(basis, now.revision.findings ?? {}),
    ...soldOutSpend(basis),
    ...brokenLinks(basis, links),
  ];
  return list.sort(
    (a, b) =>
      SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity) ||
      (b.spendShare ?? 0) - (a.spendShare ?? 0) ||
      b.count - a.count,
  );
}

/** Rows that were set aside. */
function keptOut(aside: Map<FaultCode, number>): Diagnostic[] {
  return FAULTS.filter(({ grave }) => grave).flatMap(({ code, label, why, repair }): Diagnostic[] => {
    const count = aside.get(code) ?? 0;
    const told = { code, severity: "grave" as const, label, why, repair, count };
    return count > 0 ? [{ ...told, spendShare: null, isAside: true, action: null }] : [];
  });
}

/** Items kept although a cell of theirs could not be read. */
function faulty({ columns, costs, share }: Basis): Diagnostic[] {
  const warnings = tally(columns["warnings"], costs, faultsIn);
  return FAULTS.flatMap(({ code, label, why, repair }): Diagnostic[] => {
    const { count, cost } = warnings.get(code) ?? NONE;
    const action: Repair | null =
      code === "availability-unknown" ? { kind: "teach", label: "Say what the words mean" } : null;
    const told = { code, severity: "repair" as const, label, why, repair, count, spendShare: share(cost) };
    return count > 0 ? [{ ...told, isAside: false, action }] : [];
  });
}

/** What was found over all items. */
function found({ columns, costs, share }: Basis, details: FoundFindings): Diagnostic[] {
  const findings = tally<FindingCode>(columns["findings"], costs, findingsIn);
  return FINDINGS.flatMap(({ code, severity, label, why, repair }): Diagnostic[] => {
    const { count, cost } = findings.get(code) ?? NONE;
    if (count === 0) return [];
    const action = repairOf(code, details, brandsOf(columns["brand"]));
    return [{ code, severity, label, why, repair, count, spendShare: share(cost), isAside: false, action }];
  });
}

/** What can't be bought and cost money all the same. */
function soldOutSpend({ columns, length, costs, share }: Basis): Diagnostic[] {
  const { availability } = columns;
  const sum = { count: 0, cost: 0 };
  for (let row = 0; availability && row < length; row++) {
    const cost = costs[row] ?? 0;
    if (cost <= 0 || isBuyable(cellText(availability, row))) continue;
    sum.count++;
    sum.cost += cost;
  }
  if (sum.count === 0) return [];
  return [{ ...SOLD_OUT_SPEND, count: sum.count, spendShare: share(sum.cost), isAside: false, action: EXCLUDE }];
}

/** Pages that were looked at and are not as they should be. */
function brokenLinks({ columns, length, costs, share }: Basis, links: LinkFaults): Diagnostic[] {
  const byState = new Map<LinkState, Tally>();
  for (let row = 0; links.size > 0 && row < length; row++) {
    const link = links.get(cellText(columns["id"]!, row));
    if (!link) continue;
    const entry = byState.get(link.state) ?? { count: 0, cost: 0 };
    byState.set(link.state, { count: entry.count + 1, cost: entry.cost + (costs[row] ?? 0) });
  }
  return [...byState].map(([state, { count, cost }]) => {
    const [severity, why, repair] = LINK_TEXTS[state] ?? ["note", "", ""];
    const told = { code: `link-${state}`, severity, label: LINK_STATE_LABEL[state], why, repair, count };
    const action = state === "gone" || state === "sold-out" ? EXCLUDE : null;
    return { ...told, spendShare: share(cost), isAside: false, action };
  });
}

const NONE: Tally = { count: 0, cost: 0 };
const EXCLUDE: Repair = { kind: "exclude", label: "Exclude them", reason: "out of stock" };

type LinkFaults = Awaited<ReturnType<typeof linkFaults>>;

function brandsOf(column: Column | undefined): string[] {
  if (column?.kind !== "text") return [];
  const counts = new Uint32Array(column.values.length);
  for (const code of column.codes) counts[code] = counts[code]! + 1;
  return column.values
    .map((value, code) => ({ value, count: counts[code]! }))
    .filter(({ value, count }) => value !== "" && count > 0)
    .sort((a, b) => b.count - a.count)
    .map(({ value }) => value);
}

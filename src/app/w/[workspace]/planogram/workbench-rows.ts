import { METRIC_KEYS, METRICS, type Sums } from "@/core/kit/metrics";
import type { AccountLine } from "@/server/planogram/workbench";

/** A line as the table shows it, with how deep it stands and whether it can be opened. */
export interface WorkbenchRow {
  line: AccountLine;
  depth: 0 | 1 | 2;
  isOpen: boolean | null;
}

/** The figures a line is sorted and shown by: its own, or what its items did before. */
export function figuresOf({ sums, past }: AccountLine): Sums {
  return sums.impressions === 0 && past ? past : sums;
}

/** The metrics that a line has: what ads brought. Sales of the store belong to items, whoever serves them. */
export const LINE_METRICS = METRIC_KEYS.filter((key) => !METRICS[key].needs.some((need) => need.startsWith("store")));

/** What the workbench can be sorted by. */
const SORTS: Record<string, (line: AccountLine) => number | string | null> = {
  name: ({ name }) => name.toLowerCase(),
  items: ({ items }) => items,
  budget: ({ dailyBudget }) => dailyBudget,
  bid: ({ bid }) => bid,
  ...Object.fromEntries(LINE_METRICS.map((key) => [key, (line: AccountLine) => METRICS[key].of(figuresOf(line))])),
};

function compare(a: AccountLine, b: AccountLine, sort: string): number {
  const by = SORTS[sort.replace(/^-/, "")];
  if (!by) return Number(b.status === "on") - Number(a.status === "on") || b.sums.cost - a.sums.cost;
  const [x, y] = [by(a), by(b)];
  if (x === null || y === null) return x === y ? 0 : x === null ? 1 : -1;
  const order = typeof x === "string" ? x.localeCompare(y as string) : x - (y as number);
  return sort.startsWith("-") ? -order : order;
}

/**
 * The tree as rows from top to bottom: campaigns, the ad groups of those that are open, and the product groups of those.
 * Siblings are sorted among themselves; a search keeps what has the words, with all that stands above and below it, and
 * turns round which campaigns are open where only their ad groups have them.
 */
export function workbenchRows(
  lines: AccountLine[],
  groupsOf: ReadonlyMap<string, AccountLine[]>,
  open: ReadonlySet<string>,
  q: string,
  sort: string,
): WorkbenchRow[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const has = ({ name }: AccountLine) => words.every((word) => name.toLowerCase().includes(word));
  const below = new Map<string, AccountLine[]>();
  for (const line of lines) {
    if (line.parent === null) continue;
    const list = below.get(line.parent);
    if (list) list.push(line);
    else below.set(line.parent, [line]);
  }
  const sorted = (list: AccountLine[]) => [...list].sort((a, b) => compare(a, b, sort));
  const rows: WorkbenchRow[] = [];
  for (const campaign of sorted(lines.filter(({ level }) => level === "campaign"))) {
    const isFound = words.length === 0 || has(campaign);
    const groups = (below.get(campaign.key) ?? []).filter((group) => isFound || has(group));
    if (!isFound && groups.length === 0) continue;
    // Found for what stands in it, a campaign shows that at once.
    const isOpen = open.has(campaign.key) !== !isFound;
    rows.push({ line: campaign, depth: 0, isOpen });
    if (!isOpen) continue;
    for (const group of sorted(groups)) {
      rows.push({ line: group, depth: 1, isOpen: open.has(group.key) });
      if (!open.has(group.key)) continue;
      for (const unit of sorted(groupsOf.get(group.key) ?? [])) rows.push({ line: unit, depth: 2, isOpen: null });
    }
  }
  return rows;
}

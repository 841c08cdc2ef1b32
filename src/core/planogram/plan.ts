import { type Columns, type TextColumn } from "../kit/columns";
import { NO_VALUE_LABEL } from "../account/names";
import { REMAINDER } from "../account/records/product-group";
import { ColumnReader, SOLD_OUT } from "../account/walk";
import type { Planogram, Split } from "./planogram";

/** Per-row measures a plan may weigh by; money in mills. Absent ones count as zero. */
export interface RowMeasures {
  cost?: Float64Array;
  clicks?: Float64Array;
  revenue?: Float64Array;
  orders?: Float64Array;
  /** Mills of sales that a click on the row is expected to bring, by evidence; NaN for unknown. */
  worth?: Float64Array;
}

/**
 * The planned forest as flat arrays: node `i` has a parent, a level (1 = top split) and a value code in that level's
 * column. Levels are stored one after another, so a parent always comes before its children.
 */
export interface Plan {
  /** Parent node, or -1 at the top level. */
  parent: Int32Array;
  level: Uint8Array;
  /** Code in the level's column; `POOLED` for the pool of the rest. */
  code: Int32Array;
  items: Uint32Array;
  cost: Float64Array;
  revenue: Float64Array;
  orders: Float64Array;
  /** Mean worth of a click over a node's items, each counted by its clicks and one more; NaN where nothing is known. */
  worth: Float64Array;
  /** The same over all that is planned. */
  worthOfAll: number;
  /** First node of each level, with one more entry for the end. */
  levelStart: number[];
  /** The deepest node of each catalogue row, or -1 when a rule leaves the row out. */
  home: Int32Array;
  leftOut: number;
  /** How many rows each rule leaves out, where it does; a row counts by the first that does. */
  leftOutBy: LeftOut[];
  /** The rows that the planogram's filter lets through, marked; null where it has none. */
  wanted: Uint8Array | null;
  /** The column of each level. */
  columns: TextColumn[];
  /** For each level the codes that were pooled, or null where none were. */
  pooled: (Set<number> | null)[];
  /** The column that divides what is pooled at a level, or null where it stays together. */
  otherColumns: (TextColumn | null)[];
  /** Marks the nodes whose value is one of that column. */
  isOther: Uint8Array;
  /** The items' titles, where the catalogue was given with them. */
  titles: TextColumn | null;
}

export const POOLED = -1;

/** Items that a rule of the planogram leaves out on purpose. */
export interface LeftOut {
  rule: "filter" | "sold out" | "not taken" | "excluded";
  /** The split that does not take them, from 1 on. */
  split?: number;
  items: number;
}

/**
 * Divides the catalogue by a planogram's ladder. Pure and deterministic: nodes stand in the order in which their first
 * item appears in the catalogue. Time grows with rows × levels; nothing is made per item but its home.
 * @param catalogue columns with every field of the ladder (and `availability` when only stock is planned, `title` where
 *   names or keywords are made of titles)
 * @param isWanted a row's mark where the planogram's filter lets it through; null where it has none
 * @throws RangeError when a field of the ladder is not in the catalogue
 */
export function planCatalogue(
  planogram: Planogram,
  catalogue: Columns,
  measures: RowMeasures = {},
  isWanted: Uint8Array | null = null,
): Plan {
  const reader = new ColumnReader(catalogue);
  const columns = planogram.ladder.map((split) => {
    const column = reader.text(split.by);
    if (!column) throw new RangeError(`the catalogue has no field "${split.by}"`);
    return column;
  });
  const otherColumns = planogram.ladder.map(({ others, othersBy }) => {
    if (others !== "divided" || othersBy === undefined) return null;
    const column = reader.text(othersBy);
    if (!column) throw new RangeError(`the catalogue has no field "${othersBy}"`);
    return column;
  });
  const home = new Int32Array(catalogue.length).fill(-1);
  const isLeftOut = new Uint8Array(catalogue.length);
  const leftOutBy: LeftOut[] = [];
  const leaveOut = (rule: Omit<LeftOut, "items">, isOut: (row: number) => boolean) => {
    let items = 0;
    for (let row = 0; row < catalogue.length; row++) {
      if (isLeftOut[row] || !isOut(row)) continue;
      isLeftOut[row] = 1;
      items++;
    }
    if (items > 0) leftOutBy.push({ ...rule, items });
  };
  if (isWanted) leaveOut({ rule: "filter" }, (row) => isWanted[row] === 0);
  const availability = planogram.inStockOnly ? reader.text("availability") : null;
  const sold = reader.code("availability", SOLD_OUT);
  if (availability && sold >= 0) leaveOut({ rule: "sold out" }, (row) => availability.codes[row] === sold);
  // What no split takes is left out before anything is formed, so that no group is made for nothing.
  const untaken = planogram.ladder.map((split, depth) => {
    const column = columns[depth]!;
    const others = notTaken(column, isLeftOut, split, measures);
    if (others && split.others === "closed") {
      leaveOut({ rule: "not taken", split: depth + 1 }, (row) => others.has(column.codes[row]!));
    }
    return others;
  });
  const leftOut = leftOutBy.reduce((sum, { items }) => sum + items, 0);
  const nodes = { parent: [] as number[], level: [] as number[], code: [] as number[], isOther: [] as number[] };
  const pooled: Plan["pooled"] = [];
  const levelStart: number[] = [];
  planogram.ladder.forEach((split, depth) => {
    levelStart.push(nodes.parent.length);
    const column = columns[depth]!;
    const pool = split.others === "closed" ? null : untaken[depth]!;
    pooled.push(pool);
    const other = otherColumns[depth]!;
    // A node's place among its siblings: the pool, a value, or a value of the column that divides the pool.
    const ofOthers = column.values.length + 1;
    const width = ofOthers + (other?.values.length ?? 0);
    const nodeOf = new Map<number, number>();
    for (let row = 0; row < home.length; row++) {
      if (isLeftOut[row]) continue;
      const raw = column.codes[row]!;
      const isOther = other !== null && pool !== null && pool.has(raw);
      const code = isOther ? other.codes[row]! : pool?.has(raw) ? POOLED : raw;
      const above = home[row]!;
      const slot = (above + 1) * width + (isOther ? ofOthers + code : code + 1);
      let node = nodeOf.get(slot);
      if (node === undefined) {
        node = nodes.parent.length;
        nodeOf.set(slot, node);
        nodes.parent.push(above);
        nodes.level.push(depth + 1);
        nodes.code.push(code);
        nodes.isOther.push(isOther ? 1 : 0);
      }
      home[row] = node;
    }
  });
  levelStart.push(nodes.parent.length);
  return {
    parent: Int32Array.from(nodes.parent),
    level: Uint8Array.from(nodes.level),
    code: Int32Array.from(nodes.code),
    ...sumUp(nodes.parent, home, measures),
    levelStart,
    home,
    leftOut,
    leftOutBy,
    wanted: isWanted,
    columns,
    pooled,
    otherColumns,
    isOther: Uint8Array.from(nodes.isOther),
    titles: reader.text("title"),
  };
}

/** Sums items and measures into the deepest nodes, then from children into parents. */
function sumUp(parent: number[], home: Int32Array, measures: RowMeasures) {
  const items = new Uint32Array(parent.length);
  const cost = new Float64Array(parent.length);
  const revenue = new Float64Array(parent.length);
  const orders = new Float64Array(parent.length);
  const worth = new Float64Array(parent.length);
  const weight = new Float64Array(parent.length);
  for (let row = 0; row < home.length; row++) {
    const node = home[row]!;
    if (node < 0) continue;
    items[node] = items[node]! + 1;
    if (measures.cost) cost[node] = cost[node]! + measures.cost[row]!;
    if (measures.revenue) revenue[node] = revenue[node]! + measures.revenue[row]!;
    if (measures.orders) orders[node] = orders[node]! + measures.orders[row]!;
    if (measures.worth && Number.isFinite(measures.worth[row])) {
      const counted = 1 + (measures.clicks ? measures.clicks[row]! : 0);
      worth[node] = worth[node]! + counted * measures.worth[row]!;
      weight[node] = weight[node]! + counted;
    }
  }
  for (let node = parent.length - 1; node >= 0; node--) {
    const above = parent[node]!;
    if (above < 0) continue;
    items[above] = items[above]! + items[node]!;
    cost[above] = cost[above]! + cost[node]!;
    revenue[above] = revenue[above]! + revenue[node]!;
    orders[above] = orders[above]! + orders[node]!;
    worth[above] = worth[above]! + worth[node]!;
    weight[above] = weight[above]! + weight[node]!;
  }
  let [all, allWeight] = [0, 0];
  parent.forEach((above, node) => {
    if (above >= 0) return;
    all += worth[node]!;
    allWeight += weight[node]!;
  });
  const means = worth.map((sum, node) => sum / weight[node]!);
  return { items, cost, revenue, orders, worth: means, worthOfAll: all / allWeight };
}

/**
 * The codes that a split does not take, or null where it takes all. Items without a value are taken unless values are named
 * by hand, or only the largest are wanted.
 */
function notTaken(
  column: TextColumn,
  isLeftOut: Uint8Array,
  { largest, values, others }: Split,
  measures: RowMeasures,
): Set<number> | null {
  if (values) {
    const wanted = new Set(values);
    const others = [...column.values.keys()].filter((code) => !wanted.has(column.values[code]!));
    return others.length === 0 ? null : new Set(others);
  }
  if (!largest) return null;
  const small = smallValues(column, isLeftOut, largest, measures);
  // Where only the largest are taken, what has no value is none of them; elsewhere it keeps a branch of its own, in sight.
  if (others !== "closed" || column.values[0] !== "") return small;
  return new Set([0, ...(small ?? [])]);
}

/** The codes outside the largest `count`, by the chosen measure; ties go to the value that comes first by name. */
function smallValues(
  column: TextColumn,
  isLeftOut: Uint8Array,
  largest: NonNullable<Split["largest"]>,
  measures: RowMeasures,
): Set<number> | null {
  const weights = new Float64Array(column.values.length);
  const present = new Uint8Array(column.values.length);
  const given = largest.measure === "items" ? null : measures[largest.measure];
  // Where nothing was sold yet, the largest by sales are told apart by nothing: then those with the most items are.
  const measure = given?.some((value) => value > 0) ? given : null;
  for (let row = 0; row < column.codes.length; row++) {
    if (isLeftOut[row]) continue;
    const code = column.codes[row]!;
    present[code] = 1;
    weights[code] = weights[code]! + (measure ? measure[row]! : 1);
  }
  // Items without a value keep a branch of their own, so that gaps stay in sight.
  const codes = [...column.values.keys()].filter((code) => code !== 0 && present[code]);
  if (codes.length <= largest.count) return null;
  const name = (code: number) => column.values[code]!;
  codes.sort((a, b) => weights[b]! - weights[a]! || (name(a) < name(b) ? -1 : 1));
  return new Set(codes.slice(largest.count));
}

/** The column that a node's value is one of: that of its level, or the one that divides the level's others. */
export function nodeColumn({ level, isOther, columns, otherColumns }: Plan, node: number): TextColumn {
  const depth = level[node]! - 1;
  return isOther[node] ? otherColumns[depth]! : columns[depth]!;
}

/** What a node's value is called; the branch that pools what a split does not name is its remainder. */
export function nodeLabel(plan: Plan, node: number): string {
  const code = plan.code[node]!;
  if (code === POOLED) return REMAINDER;
  const column = nodeColumn(plan, node);
  return column.labels?.[code] || column.values[code] || NO_VALUE_LABEL;
}

/** The nodes from the top level down to `node`. */
export function nodePath(plan: Plan, node: number): number[] {
  const path: number[] = [];
  for (let at = node; at >= 0; at = plan.parent[at]!) path.unshift(at);
  return path;
}

/** The nodes of a level; level 0 is the whole, as node -1 (when anything is planned at all). */
export function nodesAt(plan: Plan, level: number): number[] {
  if (level === 0) return plan.parent.length > 0 ? [-1] : [];
  const from = plan.levelStart[level - 1]!;
  return Array.from({ length: plan.levelStart[level]! - from }, (_, i) => from + i);
}

/** The node at `level` on the way up from `node`; -1 for level 0. */
export function ancestorAt(plan: Plan, node: number, level: number): number {
  if (level === 0) return -1;
  let at = node;
  while (plan.level[at]! > level) at = plan.parent[at]!;
  return at;
}

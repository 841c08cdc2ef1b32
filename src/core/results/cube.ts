import { AD_MEASURES, addSums, noSums, type AdMeasure, type Sums } from "../kit/metrics";
import { mills } from "../kit/money";
import type { Numbers } from "./day-columns";
import { squareOf, toldNothing, type Told } from "./told";

/** What a source of results is divided by, as codes. */
export const CUBE_DIMENSIONS = [
  "day",
  "campaign",
  "adGroup",
  "target",
  "item",
  "term",
  "slot",
  "hour",
  "placement",
] as const;
export type CubeDimension = (typeof CUBE_DIMENSIONS)[number];

/** The last three measures come in late. */
const LATE = AD_MEASURES.slice(3);

/**
 * Results of a window summed by what a kind of report is divided by: one line for each combination that occurs. Splits
 * and sorts run over these lines, however many days they come from.
 */
export interface Cube {
  length: number;
  dimensions: Partial<Record<CubeDimension, Float64Array>>;
  sums: Record<AdMeasure, Float64Array>;
  /** What orders, units and sales will be once all that comes late has come. */
  expected: Record<"orders" | "units" | "revenue", Float64Array>;
  /** Clicks whose orders have come in, and how much single orders differ, as `Told` has them. */
  seenClicks: Float64Array;
  squares: Float64Array;
}

/** Rows to add: columns of one length. */
export type CubeRows = Partial<Record<CubeDimension | AdMeasure, Numbers | number[]>>;

function addAt(target: number[], lines: Int32Array, values: Numbers | number[], factor: number): void {
  for (let i = 0; i < lines.length; i++) target[lines[i]!]! += values[i]! * factor;
}

function at(column: Numbers | number[] | number, i: number): number {
  return typeof column === "number" ? column : column[i]!;
}

/** Sums rows by the values of some dimensions. */
export class CubeBuilder {
  // A tree of maps, one level a dimension: numbers as keys are found several times faster than texts put together.
  private readonly root = new Map<number, unknown>();
  private readonly values: number[][];
  private readonly sums = AD_MEASURES.map(() => [] as number[]);
  private readonly late = LATE.map(() => [] as number[]);
  private readonly seenClicks: number[] = [];
  private readonly squares: number[] = [];
  private length = 0;
  /** The values that led to the last leaf, and the leaf. */
  private readonly path: number[] = [];
  private leaf = new Map<number, number>();

  private readonly measured: number[][];

  constructor(private readonly dimensions: CubeDimension[]) {
    this.values = dimensions.map(() => []);
    this.measured = [...this.sums, ...this.late, this.seenClicks, this.squares];
  }

  /**
   * @param fixed values of dimensions that are the same in all rows, such as the day
   * @param seen share of the final orders that the rows hold
   */
  add(rows: CubeRows, fixed: Partial<Record<CubeDimension, number>> = {}, seen = 1): void {
    const columns = this.dimensions.map((name) => rows[name] ?? fixed[name] ?? 0);
    const measures = AD_MEASURES.map((name) => rows[name]);
    const count = (measures.find((values) => values !== undefined) ?? []).length;
    // First where each row belongs, then one column after another: a loop over one pair of arrays runs fastest.
    const lines = new Int32Array(count);
    for (let i = 0; i < count; i++) lines[i] = this.place(columns, i);
    measures.forEach((values, m) => {
      if (!values) return;
      addAt(this.sums[m]!, lines, values, 1);
      if (m >= 3) addAt(this.late[m - 3]!, lines, values, 1 / seen);
    });
    if (rows.clicks) addAt(this.seenClicks, lines, rows.clicks, seen);
    const { orders, revenue } = rows;
    if (!orders || !revenue) return;
    for (let i = 0; i < count; i++) this.squares[lines[i]!]! += squareOf(orders[i]!, revenue[i]!);
  }

  /** The line of a combination of values. Rows of one campaign and ad group follow each other, so the last way is kept. */
  private place(columns: (Numbers | number[] | number)[], i: number): number {
    const last = columns.length - 1;
    const { path } = this;
    let isSame = path.length > 0;
    for (let d = 0; d < last && isSame; d++) isSame = at(columns[d]!, i) === path[d];
    if (!isSame) {
      let node: Map<number, unknown> = this.root;
      for (let d = 0; d < last; d++) {
        const value = at(columns[d]!, i);
        path[d] = value;
        let next = node.get(value) as Map<number, unknown> | undefined;
        if (!next) node.set(value, (next = new Map<number, unknown>()));
        node = next;
      }
      path.length = Math.max(1, last);
      this.leaf = node as Map<number, number>;
    }
    const value = at(columns[last]!, i);
    let line = this.leaf.get(value);
    if (line === undefined) {
      line = this.length++;
      columns.forEach((one, k) => this.values[k]!.push(at(one, i)));
      for (const list of this.measured) list.push(0);
      this.leaf.set(value, line);
    }
    return line;
  }

  finish(): Cube {
    const typed = (lists: number[][]) => lists.map((list) => Float64Array.from(list));
    const [sums, late] = [typed(this.sums), typed(this.late)];
    return {
      length: this.length,
      dimensions: Object.fromEntries(this.dimensions.map((name, d) => [name, Float64Array.from(this.values[d]!)])),
      sums: Object.fromEntries(AD_MEASURES.map((name, m) => [name, sums[m]])) as Cube["sums"],
      expected: { orders: late[0]!, units: late[1]!, revenue: late[2]! },
      seenClicks: Float64Array.from(this.seenClicks),
      squares: Float64Array.from(this.squares),
    };
  }
}

/** A group of a cube's lines: its keys and its sums. */
export interface Group {
  key: number;
  /** The key of the split, or 0. */
  split: number;
  sums: Sums;
  /** What it tells of its return: as seen, whether or not `sums` counts what will still come. */
  told: Told;
}

/** Adds one line of a cube to sums. @param expected with the orders that are still to come */
export function addLine(target: Sums, cube: Cube, i: number, expected: boolean): void {
  const sales = expected ? cube.expected : cube.sums;
  target.impressions += cube.sums.impressions[i]!;
  target.clicks += cube.sums.clicks[i]!;
  (target.cost as number) += cube.sums.cost[i]!;
  target.orders += sales.orders[i]!;
  target.units += sales.units[i]!;
  (target.revenue as number) += sales.revenue[i]!;
}

function tell(told: Told, { sums, seenClicks, squares }: Cube, i: number): void {
  told.clicks += sums.clicks[i]!;
  told.seenClicks += seenClicks[i]!;
  told.cost += sums.cost[i]!;
  told.orders += sums.orders[i]!;
  told.revenue += sums.revenue[i]!;
  told.squares += squares[i]!;
}

/**
 * Sums a cube's lines by one or two codes a line.
 * @param keyOf the code of a line; −1 leaves the line out
 */
export function groupCube(
  cube: Cube,
  keyOf: (line: number) => number,
  splitOf: ((line: number) => number) | null,
  keep: (line: number) => boolean,
  expected = false,
): Group[] {
  const groups: Group[] = [];
  const index = new Map<number, Map<number, Group>>();
  for (let i = 0; i < cube.length; i++) {
    if (!keep(i)) continue;
    const key = keyOf(i);
    const split = splitOf ? splitOf(i) : 0;
    if (key < 0 || split < 0) continue;
    let row = index.get(key);
    if (!row) index.set(key, (row = new Map()));
    let group = row.get(split);
    if (!group) {
      group = { key, split, sums: noSums(), told: toldNothing() };
      row.set(split, group);
      groups.push(group);
    }
    addLine(group.sums, cube, i, expected);
    tell(group.told, cube, i);
  }
  for (const { sums } of groups) sums.revenue = mills(sums.revenue);
  return groups;
}

/** The sums of several groups. */
export function totalOfGroups(groups: { sums: Sums }[]): Sums {
  const total = noSums();
  for (const { sums } of groups) addSums(total, sums);
  return total;
}

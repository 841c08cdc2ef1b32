import type { Plan } from "./plan";

/** A step that was made for the first time. */
export interface Step {
  /** Its place in the ladder, from 0 on. */
  depth: number;
  /** Whether it is by the field that divides the others of that place. */
  isOther: boolean;
  code: number;
  /** The nodes that it leads from and to. */
  from: number;
  to: number;
}

/**
 * The ways down a plan's product-group trees, by the values of rows, as numbered nodes: every value of the ladder is a step,
 * pooled ones too, and where the pooled are divided by another field, that value is one more.
 */
export class Ways {
  private readonly below: Map<number, number>[];
  private readonly belowOther: Map<number, number>[];
  private nodes = 0;

  constructor(private readonly plan: Plan) {
    this.below = plan.columns.map(() => new Map());
    this.belowOther = plan.columns.map(() => new Map());
  }

  /** A node to begin from. */
  root(): number {
    return this.nodes++;
  }

  /** Goes a row's way, making what is missing of it. @returns its end */
  add(row: number, root = 0, onStep?: (step: Step) => void): number {
    const { columns, otherColumns, pooled } = this.plan;
    this.nodes = Math.max(this.nodes, 1);
    let at = root;
    for (let depth = 0; depth < columns.length; depth++) {
      const { codes, values } = columns[depth]!;
      const code = codes[row]!;
      at = this.step(depth, false, code, at, values.length, onStep);
      const other = otherColumns[depth];
      if (other && pooled[depth]?.has(code)) {
        at = this.step(depth, true, other.codes[row]!, at, other.values.length, onStep);
      }
    }
    return at;
  }

  private step(
    depth: number,
    isOther: boolean,
    code: number,
    from: number,
    width: number,
    onStep: ((step: Step) => void) | undefined,
  ): number {
    const map = (isOther ? this.belowOther : this.below)[depth]!;
    const slot = from * width + code;
    let to = map.get(slot);
    if (to === undefined) {
      map.set(slot, (to = this.nodes++));
      onStep?.({ depth, isOther, code, from, to });
    }
    return to;
  }

  /** Where the way of a row ends; undefined where none that was made is the same. */
  find(row: number, root = 0): number | undefined {
    const { columns, otherColumns, pooled } = this.plan;
    let at: number | undefined = root;
    for (let depth = 0; depth < columns.length && at !== undefined; depth++) {
      const { codes, values } = columns[depth]!;
      const code = codes[row]!;
      at = this.below[depth]!.get(at * values.length + code);
      const other = otherColumns[depth];
      if (at !== undefined && other && pooled[depth]?.has(code)) {
        at = this.belowOther[depth]!.get(at * other.values.length + other.codes[row]!);
      }
    }
    return at;
  }
}

import { isGroup, maskOf, type Condition, type Where } from "../catalogue/where";
import type { Column } from "../kit/columns";
import { metricOfName } from "./shelf-metrics";

/**
 * How surely a row matches: 3 past the cut by the margin, 2 past the cut, 1 short of it by less than the margin, 0 not. An
 * item comes to a shelf at once with 3 and leaves it at once with 0; between the two its patience counts.
 */
export const NOT = 0;
export const NEARLY = 1;
export const JUST = 2;
export const CLEARLY = 3;

/** Degrees of `value ≥ cut` for every row; NaN matches not at all. */
export function degreesAbove(values: Float64Array, cut: number, margin: number): Uint8Array {
  const by = Number.isFinite(cut) ? Math.abs(cut) * margin : 0;
  const [low, high] = [cut - by, cut + by];
  const degrees = new Uint8Array(values.length);
  for (let row = 0; row < values.length; row++) {
    const value = values[row]!;
    degrees[row] = value >= cut ? (value >= high ? CLEARLY : JUST) : value >= low ? NEARLY : NOT;
  }
  return degrees;
}

/** Degrees of `value < cut`: what `degreesAbove` leaves, but NaN again matches not at all. */
export function degreesBelow(values: Float64Array, cut: number, margin: number): Uint8Array {
  const by = Number.isFinite(cut) ? Math.abs(cut) * margin : 0;
  const [low, high] = [cut - by, cut + by];
  const degrees = new Uint8Array(values.length);
  for (let row = 0; row < values.length; row++) {
    const value = values[row]!;
    degrees[row] = value < cut ? (value < low || by === 0 ? CLEARLY : JUST) : value < high ? NEARLY : NOT;
  }
  return degrees;
}

/** The lesser of two degrees a row, into the first: both must hold. */
export function both(degrees: Uint8Array, more: Uint8Array): Uint8Array {
  for (let row = 0; row < degrees.length; row++) if (more[row]! < degrees[row]!) degrees[row] = more[row]!;
  return degrees;
}

/** The greater of two degrees a row, into the first: one must hold. */
export function either(degrees: Uint8Array, more: Uint8Array): Uint8Array {
  for (let row = 0; row < degrees.length; row++) if (more[row]! > degrees[row]!) degrees[row] = more[row]!;
  return degrees;
}

/** Degrees of a condition: by the margin where it bounds a metric; a fact holds clearly or not. */
function conditionDegrees(
  column: Column | undefined,
  condition: Condition,
  length: number,
  margin: number,
): Uint8Array {
  const { field, op, value } = condition;
  if (column?.kind === "number" && metricOfName(field) && (op === "at-least" || op === "at-most")) {
    const bound = Number(value);
    if (op === "at-least") return degreesAbove(column.values, bound, margin);
    // At most takes the bound itself in, so it is the other side of the next number.
    return degreesBelow(column.values, nextAbove(bound), margin);
  }
  return maskOf(column, condition, length).map((hit) => (hit ? CLEARLY : NOT));
}

function nextAbove(value: number): number {
  return value + Math.max(Number.MIN_VALUE, Math.abs(value) * Number.EPSILON);
}

/** Degrees of a group of conditions: the least of all, or the most of any. An empty group holds for every row. */
export function whereDegrees(
  column: (name: string) => Column | undefined,
  where: Where,
  length: number,
  margin: number,
): Uint8Array {
  const isAll = where.match === "all";
  const degrees = new Uint8Array(length).fill(where.of.length === 0 || isAll ? CLEARLY : NOT);
  for (const part of where.of) {
    const more = isGroup(part)
      ? whereDegrees(column, part, length, margin)
      : conditionDegrees(column(part.field), part, length, margin);
    if (isAll) both(degrees, more);
    else either(degrees, more);
  }
  return degrees;
}

import { giveUp } from "../kit/outcome";
import type { GrowingColumns } from "./growing-columns";
import { LIMITS } from "./limits";

/** A value as a cell's text; null and values that say nothing become "". */
function scalarText(value: unknown): string {
  if (value === null || value === undefined) return "";
  // A null character would cut the text short wherever it is kept.
  if (typeof value === "string") return value.replaceAll("\u0000", "").trim();
  if (typeof value === "number") return Number.isFinite(value) ? trimDust(value) : "";
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? "" : isoText(value);
  if (value instanceof Uint8Array) return "";
  return String(value);
}

/** A number without the dust that binary fractions leave: 12.899999999999999 was 12.9. */
function trimDust(value: number): string {
  return Number.isSafeInteger(value) ? String(value) : String(Number(value.toPrecision(15)));
}

function isoText(date: Date): string {
  const text = date.toISOString();
  return text.endsWith("T00:00:00.000Z") ? text.slice(0, 10) : text;
}

/**
 * Spreads a nested value over named cells: an inner object's fields are named with a dot (`offers.price`), the members
 * of a list share one name and are joined. So nothing nested or repeated is lost.
 */
export function flattenInto(columns: GrowingColumns, row: string[], value: unknown, name = "", depth = 0): void {
  if (depth > LIMITS.depth) {
    giveUp("feed-deep", `The feed nests deeper than ${LIMITS.depth} levels.`, "A product feed is flat.");
  }
  if (Array.isArray(value)) {
    for (const member of value) flattenInto(columns, row, member, name, depth + 1);
    return;
  }
  if (value !== null && typeof value === "object" && !(value instanceof Date) && !(value instanceof Uint8Array)) {
    for (const [key, inner] of Object.entries(value)) {
      flattenInto(columns, row, inner, name === "" ? key : `${name}.${key}`, depth + 1);
    }
    return;
  }
  const text = scalarText(value);
  if (text !== "") columns.put(row, name === "" ? "value" : name, text);
}

import { CHANNEL_LIMITS } from "../../channel/limits";
import { daySchema } from "../../kit/day-schema";
import { parseMoneyBy } from "../../kit/money";
import type { CellReader } from "../record-kind";

/*
 * How cells of the structure's file become values of a record again: what a kind's `cells` writes, one of these reads.
 */

/** A name of its own. */
export function readName<T extends { name: string }>(): CellReader<T> {
  return (record, cell) => {
    if (cell === "") return "A name can't be empty.";
    const { nameLength } = CHANNEL_LIMITS;
    return cell.length > nameLength ? `The name is longer than ${nameLength} characters.` : { ...record, name: cell };
  };
}

/** One of a few words, as the file writes them, each for a value. */
export function readChoice<T, F extends keyof T & string>(
  field: F,
  words: Readonly<Record<string, T[F]>>,
): CellReader<T> {
  const [first = "", second = ""] = Object.keys(words);
  return (record, cell) =>
    Object.hasOwn(words, cell) ? { ...record, [field]: words[cell] } : `“${cell}” is neither ${first} nor ${second}.`;
}

export function readStatus<T extends { status: "on" | "paused" }>(): CellReader<T> {
  return readChoice<T, "status">("status", { on: "on", paused: "paused" });
}

/** An amount in currency units with a point, as mills; an empty cell is none where the field can have none. */
export function readAmount<T>(field: keyof T & string, canBeNone = false): CellReader<T> {
  return (record, cell) => {
    if (cell === "" && canBeNone) return { ...record, [field]: null };
    if (/^['=+@]/.test(cell)) return `“${cell}” is a formula or a text, no amount.`;
    const parsed = parseMoneyBy(cell, ".");
    return parsed.ok ? { ...record, [field]: parsed.mills } : `“${cell}” is no amount.`;
  };
}

/** A day such as 2026-12-31, or none. */
export function readDay<T>(field: keyof T & string): CellReader<T> {
  return (record, cell) => {
    if (cell === "") return { ...record, [field]: null };
    return daySchema.safeParse(cell).success ? { ...record, [field]: cell } : `“${cell}” is no day such as 2026-12-31.`;
  };
}

/** A field that is left out where the cell is empty. @param fault what is wrong with a value, or null */
export function readOptional<T>(field: keyof T & string, fault: (cell: string) => string | null): CellReader<T> {
  return (record, cell) => {
    const wrong = fault(cell);
    if (wrong !== null) return wrong;
    const { [field]: _, ...others } = record;
    return (cell === "" ? others : { ...others, [field]: cell }) as T;
  };
}

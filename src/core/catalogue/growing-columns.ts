import { giveUp } from "../kit/outcome";
import { LIMITS } from "./limits";

/** What stands between repeated values of one field, such as several pictures. */
export const REPEAT_MARK = " | ";

/**
 * Columns of a feed without a header, found on the way: each name gets a place when it is first met, so later rows can
 * be longer than earlier ones.
 */
export class GrowingColumns {
  readonly names: string[] = [];
  private readonly index = new Map<string, number>();

  /** Puts a value into a row under a name. Repeated values are joined by {@link REPEAT_MARK}. */
  put(row: string[], name: string, value: string): void {
    let at = this.index.get(name);
    if (at === undefined) {
      at = this.names.length;
      if (at >= LIMITS.columns) {
        giveUp("feed-too-wide", `The feed has more than ${LIMITS.columns} different fields.`, "Leave some out.");
      }
      this.names.push(name);
      this.index.set(name, at);
    }
    while (row.length <= at) row.push("");
    const before = row[at]!;
    // A cell beyond the limit puts its row aside, so nothing more need be kept of it.
    if (before.length > LIMITS.cell) return;
    row[at] = before === "" ? value : `${before}${REPEAT_MARK}${value}`;
  }
}

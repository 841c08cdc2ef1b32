import { between, type Between } from "./move";

/** What a span of days brought of the items that a move is about; orders completed for lateness. Mills. */
export interface Span {
  cost: number;
  /** Sales that count × margin. */
  left: number;
  /** Σ over rows of (sales × margin)² ÷ orders: how far chance alone moves what is left. */
  luck: number;
}

/** A move that was sent, and the days around it. */
export interface Followed {
  /** Expected contribution a day; null where costs were not known. */
  expected: Between | null;
  before: Span;
  after: Span;
  /** Days on each side. */
  days: number;
}

/** What came of a move a day, with what chance alone could have made of it, and whether that is what was expected. */
export interface Came {
  came: Between;
  isAsExpected: boolean;
}

/**
 * Contribution a day after a move against that before it (`docs/formulas.md` 8). It counts as expected where what came and what
 * was expected could be the same: both intervals meet.
 */
export function whatCame({ expected, before, after, days }: Followed): Came | null {
  if (!expected || days < 1) return null;
  const mean = (after.left - after.cost - (before.left - before.cost)) / days;
  const came = between(mean, (after.luck + before.luck) / days ** 2);
  return { came, isAsExpected: came.low <= expected.high && came.high >= expected.low };
}

/** The sum of what came, chance taken as not connected; and of what was expected, a month. */
export interface MovesRecord {
  moves: number;
  asExpected: number;
  expected: number;
  came: Between;
}

const MONTH = 30;

export function recordOf(followed: readonly Followed[]): MovesRecord {
  let [moves, asExpected, expected, mean, variance] = [0, 0, 0, 0, 0];
  for (const one of followed) {
    const told = whatCame(one);
    if (!told) continue;
    moves++;
    if (told.isAsExpected) asExpected++;
    expected += MONTH * one.expected!.mean;
    mean += MONTH * told.came.mean;
    variance += (MONTH / one.days) ** 2 * (one.after.luck + one.before.luck);
  }
  return { moves, asExpected, expected, came: between(mean, variance) };
}

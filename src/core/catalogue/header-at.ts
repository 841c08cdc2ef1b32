/** How many rows at the top are looked at for the header. */
export const TOP_ROWS = 30;

/**
 * The place of the header among the top rows of a file that may begin with lines about itself: the first row with nearly
 * as many filled cells as the fuller rows have. @returns -1 when no row has two
 */
export function headerAt(top: string[][]): number {
  const filled = top.map((cells) => cells.filter((cell) => cell.trim() !== "").length);
  // Not the fullest: a single row that a stray delimiter made longer must not pass for the header.
  const usual = [...filled].sort((a, b) => a - b)[Math.floor(0.75 * (filled.length - 1))] ?? 0;
  return Math.max(0, ...filled) < 2 ? -1 : filled.findIndex((count) => count >= Math.max(2, usual * 0.7));
}

/**
 * The place of the header among the top rows of a file that may begin with lines about itself: the first row that has
 * nearly as many filled cells as any of them. @returns -1 when no row has two
 */
export function headerAt(top: string[][]): number {
  const filled = top.map((cells) => cells.filter((cell) => cell.trim() !== "").length);
  const most = Math.max(0, ...filled);
  return most < 2 ? -1 : filled.findIndex((count) => count >= Math.max(2, most * 0.7));
}

/** How many rows at the top are looked at for the header. */
export const TOP_ROWS = 30;

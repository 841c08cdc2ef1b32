/** The levels of a category path are fields of their own, this many. */
export const CATEGORY_LEVELS = 5;

/** Separators that a feed may use between the levels of a category path, the plainest sign first. */
export const CATEGORY_SEPARATORS = [">", "›", "»", "→", "|", "::", "\\", " / ", "/", ";", " - ", ","] as const;

/** Signs that stand between levels and nowhere else. */
const SURE = /\s*(?:>|›|»|→)\s*/;
const SURE_OR_BAR = /\s*(?:>|›|»|→|\|)\s*/;

function steps(path: string, parter: RegExp | string): string[] {
  return path
    .split(parter)
    .map((step) => step.trim())
    .filter((step) => step !== "");
}

/**
 * The levels of a category path, top first; empty steps are left out.
 * @param separator what the feed uses; null looks for `>` and its like, then for bars. Of several paths in one value
 *   ("A > B | A > C") the first counts.
 */
export function categoryLevels(path: string, separator: string | null = null): string[] {
  if (separator !== null && separator !== "|") return steps(path, separator);
  if (SURE.test(path))
    return steps(path.includes("|") ? (path.split("|").find((part) => part.trim()) ?? "") : path, SURE);
  return steps(path, SURE_OR_BAR);
}

/**
 * The separator that a feed's paths use, from sample values, or null when the plain signs serve. A weak sign such as a
 * slash or a comma counts only when it parts most values and the parts before it repeat, as levels do.
 */
export function detectSeparator(samples: string[]): string | null {
  const filled = [...new Set(samples.map((value) => value.trim()).filter((value) => value !== ""))];
  if (filled.length === 0 || filled.some((value) => SURE_OR_BAR.test(value))) return null;
  for (const separator of CATEGORY_SEPARATORS.slice(5)) {
    const parted = filled.filter((value) => steps(value, separator).length > 1);
    if (parted.length < filled.length * 0.6) continue;
    const tops = new Set(parted.map((value) => steps(value, separator)[0]));
    if (parted.length === 1 || tops.size <= parted.length * 0.7) return separator;
  }
  return null;
}

/** Paths fewer than these tell nothing of a sign in them. */
const LEAST_PATHS = 3;

/**
 * A weak sign that stands in most paths that were read as one level each, with one of them: whether it parts levels is for a
 * person to say. Null where there is none, or where paths have levels.
 */
export function unpartedSign(paths: Iterable<string>): { sign: string; example: string } | null {
  const filled = [...new Set(paths)].filter((path) => path.trim() !== "");
  if (filled.length < LEAST_PATHS || filled.some((path) => SURE_OR_BAR.test(path))) return null;
  for (const sign of CATEGORY_SEPARATORS.slice(5)) {
    const parted = filled.filter((path) => steps(path, sign).length > 1);
    if (parted.length >= filled.length * 0.6) return { sign: sign.trim(), example: parted[0]! };
  }
  return null;
}

/** The column that a category level is kept in: `category1` is the top. */
export function categoryColumn(level: number): string {
  return `category${level}`;
}

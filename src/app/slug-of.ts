/** A short name for a workspace, of letters, digits and hyphens, made of what a person calls it. */
export function slugOf(name: string): string {
  const slug = name
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, MOST_LETTERS)
    .replace(/-$/, "");
  return slug || "shop";
}

const MOST_LETTERS = 40;

/** A short name that is not taken: the first of name, name-2, name-3 … */
export function freeSlug(name: string, taken: ReadonlySet<string>): string {
  const first = slugOf(name);
  if (!taken.has(first)) return first;
  for (let number = 2; ; number++) {
    const next = `${first.slice(0, MOST_LETTERS - String(number).length - 1)}-${number}`;
    if (!taken.has(next)) return next;
  }
}

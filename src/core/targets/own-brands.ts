/** Tells whether a term has one of the shop's brands in it, word by word. */
export function brandFinder(brands: readonly string[]): (term: string) => boolean {
  const byFirst = new Map<string, string[]>();
  for (const brand of brands) {
    const name = brand.toLowerCase().trim();
    const [first] = name.split(/\s+/);
    if (first) byFirst.set(first, [...(byFirst.get(first) ?? []), name]);
  }
  return (term) => {
    const words = term.toLowerCase().split(/\s+/);
    return words.some((word, at) =>
      (byFirst.get(word) ?? []).some((name) => words.slice(at, at + name.split(/\s+/).length).join(" ") === name),
    );
  };
}

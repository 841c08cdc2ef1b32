/** A job from start to end, as the guide tells it. */
export interface Guide {
  key: string;
  title: string;
  /** When somebody has it to do. */
  when: string;
  /** Pages beside which it is offered, as paths below the workspace; "" is Today. */
  pages: string[];
  /** Other words by which somebody may look for it. */
  words: string[];
  /** Its steps as Markdown, a numbered list; each ends with the way to where it is done, and sets in bold what stands there. */
  text: string;
}

/**
 * A guide from its file: lines of `name: value` between two lines of hyphens, then Markdown.
 * @throws Error that names the file and what it lacks
 */
export function readGuide(key: string, file: string): Guide {
  const parts = /^---\n([\s\S]*?)\n---\n([\s\S]*)$/.exec(file);
  if (!parts) throw new Error(`${key} does not begin with its title between two lines of hyphens`);
  const head = new Map(
    parts[1]!.split("\n").map((line) => {
      const at = line.indexOf(":");
      return [line.slice(0, at).trim(), line.slice(at + 1).trim()] as const;
    }),
  );
  const told = (name: string) => head.get(name) || fail(key, name);
  return {
    ...{ key, title: told("title"), when: told("when") },
    pages: told("pages")
      .split(",")
      .map((page) => page.trim()),
    words: (head.get("words") ?? "").split(/\s+/).filter(Boolean),
    text: parts[2]!.trim(),
  };
}

function fail(key: string, name: string): never {
  throw new Error(`${key} has no ${name}`);
}

/** Guides for a page first, then the others, each as they come. */
export function guidesBeside(guides: readonly Guide[], page: string): { here: Guide[]; others: Guide[] } {
  const isHere = ({ pages }: Guide) => pages.includes(page);
  return { here: guides.filter(isHere), others: guides.filter((guide) => !isHere(guide)) };
}

/** Guides that somebody may mean: each word they typed begins a word of its title, its moment or its other words. */
export function findGuides(guides: readonly Guide[], text: string): Guide[] {
  const asked = wordsOf(text);
  if (asked.length === 0) return [];
  return guides.filter(({ title, when, words }) => {
    const known = [...wordsOf(title), ...wordsOf(when), ...words];
    return asked.every((word) => known.some((one) => one.startsWith(word)));
  });
}

const wordsOf = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];

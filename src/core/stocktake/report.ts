import type { Sums } from "../kit/metrics";
import { CHAPTER_KEYS, chapterOf, type ChapterKey, type MadeChapter } from "./chapters";
import type { Finding } from "./finding";
import type { Material } from "./material";
import type { Ref } from "./phrase";

/** What stands above the chapters: the window, the whole, and what was found. Money in mills. */
export interface StocktakeHead extends Pick<Material, "from" | "to" | "days" | "currency" | "goal" | "missing"> {
  total: Sums;
  /** The days before, as many; null where they are not all known. */
  before: Sums | null;
  findings: Finding[];
}

/** A stocktake with all that its report is made of. */
export interface Report {
  name: string;
  /** `YYYY-MM-DD` on which it was taken. */
  on: string;
  head: StocktakeHead;
  chapters: MadeChapter[];
  remarks: Partial<Record<ChapterKey, string>>;
  /** Findings that were put aside, by key, with the reason. */
  dismissed: ReadonlyMap<string, string>;
  house: { name: string; logo: string };
}

/** Chapters in the order somebody chose, else as they come. */
export function inOrder(made: readonly MadeChapter[], order: readonly ChapterKey[] | null): MadeChapter[] {
  const byKey = new Map(made.map((chapter) => [chapter.key, chapter]));
  return (order ?? CHAPTER_KEYS).flatMap((key) => byKey.get(key) ?? []);
}

/** Findings that stand open, and those of one chapter. */
export function openFindings({ head, dismissed }: Pick<Report, "head" | "dismissed">, chapter?: ChapterKey): Finding[] {
  return head.findings.filter(
    ({ key, fault }) => !dismissed.has(key) && (chapter === undefined || chapterOf(fault) === chapter),
  );
}

/** Everything that a report names, in the order in which it is read; each once. */
export function refsIn({ head, chapters }: Pick<Report, "head" | "chapters">): Ref[] {
  const found = new Map<string, Ref>();
  const put = (ref: Ref) => {
    const key = `${ref.kind}\n${ref.key}`;
    if (!found.has(key)) found.set(key, ref);
  };
  for (const { about, says } of head.findings) {
    for (const part of says) if (typeof part === "object" && "ref" in part) put(part.ref);
    about.forEach(put);
  }
  for (const { table } of chapters) {
    for (const cell of table?.rows.flat() ?? []) {
      if (cell === null || typeof cell !== "object") continue;
      if ("ref" in cell) put(cell.ref);
      else if ("says" in cell)
        for (const part of cell.says) if (typeof part === "object" && "ref" in part) put(part.ref);
    }
  }
  return [...found.values()];
}

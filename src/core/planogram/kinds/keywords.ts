import { aimFault } from "../../targets/aims";
import { renderName, usesProduct } from "../names";
import { nodeColumn, nodePath, POOLED, type Plan } from "../plan";
import type { Planogram } from "../planogram";
import { productName } from "../product-name";

/** What the patterns give an ad group. */
export interface PatternKeywords {
  texts: string[];
  /** Patterns that give it none, for one of their splits says nothing there. */
  empty: number;
  /** Texts that the channel does not take. */
  unfit: number;
}

/**
 * The keywords that patterns give an ad group: the values of its splits and what its items are called, with the text between
 * them, in lower case, without signs and without a word twice in a row. What is pooled or has no value is nothing that anybody searches for, so a pattern
 * that speaks of it gives none: with a hole in it the keyword would reach further than was meant.
 */
export function keywordsOf(
  plan: Plan,
  node: number,
  { patterns }: NonNullable<Planogram["keywords"]>,
): PatternKeywords {
  const levels = nodePath(plan, node).map((at) => {
    const code = plan.code[at]!;
    const column = nodeColumn(plan, at);
    return code === POOLED ? "" : (column.labels?.[code] ?? column.values[code]!);
  });
  const texts = new Set<string>();
  let [empty, unfit] = [0, 0];
  for (const pattern of patterns) {
    const product = usesProduct(pattern) ? productName(plan, node) : "";
    if (
      pattern.some((part) => (part.kind === "level" ? !levels[part.level - 1] : part.kind === "product" && !product))
    ) {
      empty++;
      continue;
    }
    const rest = { purpose: "", kind: "", firstDay: "", match: "", planogram: "", campaign: "", number: 0 };
    const text = cleaned(renderName(pattern, { levels, product, ...rest }));
    if (text === "") empty++;
    else if (aimFault({ what: "keyword", text, matches: ["exact"] }, () => false, null) !== null) unfit++;
    else texts.add(text);
  }
  return { texts: [...texts], empty, unfit };
}

function cleaned(text: string): string {
  const words = text
    .toLowerCase()
    .replace(/[^\p{L}\p{M}\p{N}'’.-]+/gu, " ")
    .trim()
    .split(" ");
  return words.filter((word, i) => /[\p{L}\p{N}]/u.test(word) && word !== words[i - 1]).join(" ");
}

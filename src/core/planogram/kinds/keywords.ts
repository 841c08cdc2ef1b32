import { cleanedKeyword } from "../../channel/keyword-fault";
import { aimFault } from "../../targets/aims";
import { fillParts } from "../../parts/fill";
import { nameValue, usesProduct } from "../names";
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
    const rest = { purpose: "", kind: "", firstDay: "", match: "", planogram: "", campaign: "", number: 0 };
    const filled = fillParts(pattern, nameValue({ levels, product, ...rest }));
    const text = cleanedKeyword(filled.text);
    // A keyword says all that it was meant to, or is none.
    if (text === "" || filled.empty.length > 0) empty++;
    else if (aimFault({ what: "keyword", text, matches: ["exact"] }, () => false, null) !== null) unfit++;
    else texts.add(text);
  }
  return { texts: [...texts], empty, unfit };
}

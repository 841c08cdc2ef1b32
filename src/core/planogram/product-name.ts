import { cellText, type TextColumn } from "../kit/columns";
import { asName, sharedWords, wordsOf } from "../kit/shared-words";
import { ancestorAt, type Plan } from "./plan";

const made = new WeakMap<Plan, Map<number, Map<number, string>>>();

/**
 * What the items of a node are called: the words with which all their titles begin, such as those of a family whose
 * variants differ at the end. "" where they begin with nothing alike, or the plan has no titles.
 * @param node a node of the plan, or −1 for the whole
 */
export function productName(plan: Plan, node: number): string {
  const { titles } = plan;
  if (!titles) return "";
  const level = node < 0 ? 0 : plan.level[node]!;
  let levels = made.get(plan);
  if (!levels) made.set(plan, (levels = new Map()));
  let names = levels.get(level);
  if (!names) levels.set(level, (names = namesAt(plan, level, titles)));
  return names.get(node) ?? "";
}

/** The names of all nodes of a level. Every title is read once, and no further than it still matters. */
function namesAt(plan: Plan, level: number, titles: TextColumn): Map<number, string> {
  const shared = new Map<number, string[]>();
  for (let row = 0; row < plan.home.length; row++) {
    if (plan.home[row]! < 0) continue;
    const node = ancestorAt(plan, plan.home[row]!, level);
    const words = shared.get(node);
    if (words === undefined) shared.set(node, wordsOf(cellText(titles, row)));
    else if (words.length > 0) words.length = sharedWords(words, wordsOf(cellText(titles, row)));
  }
  return new Map([...shared].map(([node, words]) => [node, asName(words)]));
}

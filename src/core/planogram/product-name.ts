import { cellText, type TextColumn } from "../kit/columns";
import { ancestorAt, type Plan } from "./plan";

/** A product's name is cut at a word beyond so many characters: it is a part of a campaign's name beside others. */
const LONGEST = 60;

/** Words that join what comes after them; at the end of a name they hang in the air. */
const DANGLING = new Set(["a", "an", "and", "at", "by", "for", "from", "in", "of", "on", "or", "the", "to", "with"]);

function wordsOf(title: string): string[] {
  return title.split(/\s+/).filter(Boolean);
}

/** How many words two titles begin with alike, whatever their capitals. */
function sharedWords(words: readonly string[], others: readonly string[]): number {
  let count = 0;
  while (count < words.length && count < others.length && isSame(words[count]!, others[count]!)) count++;
  return count;
}

const isSame = (a: string, b: string) => a === b || plainWord(a) === plainWord(b);
const plainWord = (word: string) => word.toLowerCase().replace(/[^\p{L}\p{N}]+$/u, "");

/** Words as a name: within its length, without a joining word or a sign at its end. */
function asName(words: readonly string[]): string {
  const kept: string[] = [];
  let length = -1;
  for (const word of words) {
    if ((length += word.length + 1) > LONGEST) break;
    kept.push(word);
  }
  while (kept.length > 0 && (DANGLING.has(plainWord(kept.at(-1)!)) || plainWord(kept.at(-1)!) === "")) kept.pop();
  return kept.join(" ").replace(/[^\p{L}\p{N})\]"”%°]+$/u, "");
}

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

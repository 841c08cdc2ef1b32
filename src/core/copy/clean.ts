import { charactersOf } from "../kit/text-length";
import { compileStep } from "../parts/steps";

const PLAIN_TEXT = compileStep({ do: "plain-text" });
const NOTHING_ELSE = { lookUp: () => undefined, number: () => NaN };
const NEEDS_CLEANING = /[<&\p{Cc}\u200B\u200E\u200F\u202A-\u202E\u2060\uFEFF]/u;
/** Longer values are cut here before anything is done to them: no line is nearly so long. */
const REACH = 2_000;

/** A feed's text as lines can say it: without HTML and hidden signs, white space single. */
export function cleanedValue(raw: string): string {
  const reached =
    raw.length > REACH
      ? charactersOf(raw.slice(0, REACH + 20))
          .slice(0, REACH)
          .join("")
      : raw;
  const plain = NEEDS_CLEANING.test(reached) ? PLAIN_TEXT(reached, NOTHING_ELSE) : reached;
  return plain.replace(/\s+/g, " ").trim();
}

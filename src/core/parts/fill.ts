import { isField, type Part } from "./part";
import { compileSteps, type Step, type StepContext } from "./steps";

/** The value of a field, as it reads; "" where there is none. */
export type ValueOf = (field: string) => string;

/** Parts put together. */
export interface Filled {
  text: string;
  /** Fields that had nothing to say. */
  empty: string[];
}

/** Lines have steps that look at nothing but the value; see `lineSchema`. */
const NOTHING_ELSE: StepContext = { lookUp: () => undefined, number: () => NaN };

const compiled = new WeakMap<readonly Step[], ReturnType<typeof compileSteps>>();

/** A value after the steps that a field part has for it. */
export function stepped(value: string, steps: readonly Step[] | undefined, context = NOTHING_ELSE): string {
  if (!steps) return value;
  let change = compiled.get(steps);
  if (!change) compiled.set(steps, (change = compileSteps(steps)));
  return change(value, context);
}

const SAYS_SOMETHING = /[\p{L}\p{N}]/u;
/** What stands between two parts and means nothing at an end. */
const LOOSE_END = /[\s·|,;:/–—-]+$/;
/** What closes something that an empty field would have opened. */
const CLOSES = /^[)\]}»”%]+/;

/**
 * Puts a line together. A field without a value drops out with the text before it, and with what closes behind it, so that
 * nothing is left that leads nowhere; what only parts two values does not stand at an end. Spaces within are as given.
 */
export function fillParts(parts: readonly Part[], valueOf: ValueOf): Filled {
  const empty: string[] = [];
  let made = "";
  let waiting = "";
  let isAfterGap = false;
  for (const part of parts) {
    if (!isField(part)) {
      waiting += isAfterGap && waiting === "" ? part.text.replace(CLOSES, "") : part.text;
      continue;
    }
    const value = stepped(valueOf(part.field), part.steps);
    isAfterGap = value === "";
    if (isAfterGap) empty.push(part.field);
    else made += (made === "" && !SAYS_SOMETHING.test(waiting) ? "" : waiting) + value;
    waiting = "";
  }
  if (!isAfterGap || SAYS_SOMETHING.test(waiting)) made += made === "" ? waiting : waiting.replace(LOOSE_END, "");
  return { text: made.trim(), empty };
}

import { formatMoney } from "../kit/money";
import type { Effect } from "./effect";
import { MEASURES, type MeasureKey } from "./measures";

/** What an experiment found. */
export type Finding = "more" | "less" | "same" | "open";

/**
 * What an effect comes to: more or less where its interval lies on one side of none, the same where it holds nothing that
 * matters, open otherwise.
 * @param least the least effect that matters, in the measure's unit a day
 */
export function findingOf(effect: Effect | null, least: number): Finding {
  if (!effect) return "open";
  if (effect.low > 0) return "more";
  if (effect.high < 0) return "less";
  return effect.low > -least && effect.high < least ? "same" : "open";
}

/** An amount of a measure in words: money, or a count to a digit behind the point. */
export function amountInWords(measure: MeasureKey, amount: number, currency: string): string {
  if (MEASURES[measure].unit === "money") return formatMoney(Math.round(amount), currency);
  return (Math.round(amount * 10) / 10).toLocaleString("en", { maximumFractionDigits: 1 });
}

/** What is said of an experiment: one sentence, of what it found or why it says nothing yet. */
export function verdictInWords(
  change: string,
  measure: MeasureKey,
  effect: Effect | null,
  least: number,
  isOver: boolean,
  currency: string,
): string {
  const { inWords } = MEASURES[measure];
  const amount = (value: number) => amountInWords(measure, value, currency);
  if (!effect) {
    return isOver
      ? "Nothing can be told: too few days counted, or too little came of them."
      : "Not yet: too few days count so far to say anything.";
  }
  const { mean, low, high } = effect;
  const ends = (from: number, to: number) => `${amount(from)} to ${amount(to)}`;
  switch (findingOf(effect, least)) {
    case "more":
      return `“${change}” raises ${inWords} by ${amount(mean)} a day (${ends(low, high)}).`;
    case "less":
      return `“${change}” lowers ${inWords} by ${amount(-mean)} a day (${ends(-high, -low)}).`;
    case "same":
      return `“${change}” makes no difference that matters to ${inWords}: ${signed(amount, mean)} a day (${signed(amount, low)} to ${signed(amount, high)}).`;
    case "open":
      return `${isOver ? "It could not be told" : "Not yet"}: “${change}” changes ${inWords} by somewhere between ${signed(amount, low)} and ${signed(amount, high)} a day.`;
  }
}

const signed = (amount: (value: number) => string, value: number) =>
  `${value < 0 ? "−" : "+"}${amount(Math.abs(value))}`;

/** A change of a measure with its sign. */
export function changeOfMeasure(measure: MeasureKey, change: number, currency: string): string {
  return signed((value) => amountInWords(measure, value, currency), change);
}

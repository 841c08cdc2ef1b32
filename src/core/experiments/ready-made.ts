import type { Change, Design } from "./changes";
import type { MeasureKey } from "./measures";

/** An experiment to start from: what it settles, and how it is usually set up. */
export interface ReadyMade {
  key: string;
  label: string;
  /** The question that it answers. */
  question: string;
  design: Design;
  change: Change;
  measure: MeasureKey;
  days: number;
}

export const READY_MADE: readonly ReadyMade[] = [
  {
    ...{ key: "trial-exclusion", label: "Leave items out", design: "items", change: { kind: "exclude" } },
    ...{ measure: "everything", days: 42 },
    question: "Do these items sell as well without ads? Half of their kinds go without.",
  },
  {
    ...{ key: "hold-out", label: "Days without some ads", design: "days", change: { kind: "pause" } },
    ...{ measure: "everything", days: 28 },
    question: "How much would have come anyway, such as from ads for one’s own brand or on one’s own pages?",
  },
  {
    ...{ key: "bid", label: "Another bid", design: "items", change: { kind: "item-bid", percent: -20 } },
    ...{ measure: "contribution", days: 28 },
    question: "Does less or more for a click bring more in the end?",
  },
  {
    ...{
      key: "worth",
      label: "Bids by worth",
      design: "items",
      change: { kind: "worth-bid", towards: "contribution" },
    },
    ...{ measure: "contribution", days: 28 },
    question: "Do bids by what a click is worth beat the ones that are set?",
  },
  {
    ...{
      key: "flex",
      label: "Another flex",
      design: "days",
      change: { kind: "flex", flex: { below: 0.3, above: 0.3 } },
    },
    ...{ measure: "contribution", days: 28 },
    question: "Does it pay to let the channel go from a bid in an auction?",
  },
  {
    ...{ key: "slot", label: "Another slot factor", design: "days" },
    change: { kind: "slot", slot: "item-pages", factor: 0.7 },
    ...{ measure: "contribution", days: 28 },
    question: "Are clicks in one slot worth what they cost?",
  },
  {
    ...{ key: "places", label: "Leave places out", design: "days", change: { kind: "keep-out", values: [] } },
    ...{ measure: "contribution", days: 28 },
    question: "Do these terms, listings or placements bring anything? Every other day goes without.",
  },
  {
    ...{ key: "budget", label: "Another budget", design: "campaigns", change: { kind: "budget", percent: 30 } },
    ...{ measure: "contribution", days: 28 },
    question: "Would more money a day bring more than it costs?",
  },
];

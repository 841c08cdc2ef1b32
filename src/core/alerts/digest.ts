import { formatDay, type Day, type Window } from "../kit/days";
import { formatCount, formatMetric, plural } from "../kit/format";
import { escapeMarkup } from "../kit/markup";
import { METRICS, valueOf, type MetricKey, type Sums } from "../kit/metrics";
import { FAULTS, type Finding } from "../stocktake/finding";
import { phraseText, plainSpelling } from "../stocktake/phrase";
import { monthText, mendText } from "../stocktake/html";
import { ALERTS, type AlertKind } from "./alerts";

/** How a week went, and what to do about it. Money in mills. */
export interface Digest {
  from: Day;
  to: Day;
  currency: string;
  goal: number;
  week: Sums;
  /** The week before; null where not all of its days are known. */
  before: Sums | null;
  /** Sums that no report tells. */
  missing: (keyof Sums)[];
  /** What went out to the channel in the week. */
  sent: { dispatches: number; changes: number };
  /** Alerts that speak up at its end. */
  alerts: { kind: AlertKind; says: string }[];
  /** The findings with the most money over the ninety days that end with it, and what became of those of the week before. */
  found: { findings: Finding[]; all: number; mended: number | null; fresh: number | null } | null;
  /** The moves with the most money at stake, that money a month. */
  moves: { key: string; what: string; about: string; stake: number }[];
}

/** What the table of a week holds. */
export const DIGEST_METRICS: readonly MetricKey[] = ["cost", "revenue", "roas", "orders", "clicks", "cpc"];

/** A line of the week's table: this week, the week before, and the change as a share; null where it can't be told. */
export interface DigestLine {
  metric: MetricKey;
  now: number | null;
  then: number | null;
  change: number | null;
}

/** The week's figures beside those of the week before. What no report tells has no value. */
export function digestLines({ week, before, missing }: Digest): DigestLine[] {
  return DIGEST_METRICS.map((metric): DigestLine => {
    const now = valueOf(metric, week, missing);
    const then = before ? valueOf(metric, before, missing) : null;
    const change = now !== null && then !== null && then !== 0 ? now / then - 1 : null;
    return { metric, now, then, change };
  });
}

/** The last Monday to Sunday that is over by a day with results. */
export function lastWeek(last: Day): Window {
  // Day 0 was a Thursday, so Sundays are those with (day + 4) % 7 = 0.
  const to = last - ((last + 4) % 7);
  return { from: to - 6, to };
}

/** A change as text, with its sign. */
export function changeText(change: number | null): string {
  if (change === null) return "–";
  return `${change < 0 ? "−" : "+"}${Math.abs(change * 100).toFixed(0)} %`;
}

/** What the week's stocktake says beside that of the week before, in a sentence. */
export function foundWords({ found }: Pick<Digest, "found">): string {
  if (!found) return "What is wrong can't be told for these days.";
  const { all, mended, fresh } = found;
  const since =
    mended === null || fresh === null
      ? ""
      : `, ${formatCount(mended)} mended and ${formatCount(fresh)} new since the week before`;
  return `${plural(all, "finding")}${since}.`;
}

/** A digest as one HTML file that opens without a network. */
export function digestHtml(digest: Digest, shop: string): string {
  const { currency, from, to, goal, sent, alerts, moves } = digest;
  const spelling = plainSpelling(currency);
  const row = (cells: string[], tag = "td") =>
    `<tr>${cells.map((cell) => `<${tag}>${escapeMarkup(cell)}</${tag}>`).join("")}</tr>`;
  const figures = digestLines(digest)
    .map(({ metric, now, then, change }) =>
      row([
        METRICS[metric].label,
        formatMetric(metric, now, currency),
        formatMetric(metric, then, currency),
        changeText(change),
      ]),
    )
    .join("\n");
  const list = (lines: string[]) => `<ul>${lines.map((line) => `<li>${line}</li>`).join("\n")}</ul>`;
  const found = (digest.found?.findings ?? []).map((finding) => {
    const month = monthText(finding, spelling);
    const amount = month ? ` (${month.amount} ${month.of})` : "";
    return `<b>${escapeMarkup(FAULTS[finding.fault])}</b>${escapeMarkup(`${amount}: ${phraseText(finding.says, spelling)} ${mendText(finding)}`)}`;
  });
  const title = `${shop}, week of ${formatDay(from)}`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escapeMarkup(title)}</title><style>
body { margin: 0 auto; max-width: 44rem; padding: 2rem; font: 15px/1.5 "Segoe UI", system-ui, sans-serif; color: #211b16; }
table { border-collapse: collapse; width: 100%; } th, td { text-align: right; padding: .3rem .5rem; border-bottom: 1px solid #e3dace; } th:first-child, td:first-child { text-align: left; }
h2 { font-size: 1.1rem; margin: 1.6rem 0 .3rem; } li { margin: .3rem 0; }
</style></head><body>
<h1>${escapeMarkup(title)}</h1>
<p>${formatDay(from)} to ${formatDay(to)}. The goal is a return of ${goal}. ${plural(sent.dispatches, "dispatch", "dispatches")} with ${plural(sent.changes, "change")} went out.</p>
<table><thead>${row(["", "The week", "The week before", "Change"], "th")}</thead><tbody>
${figures}
</tbody></table>
<h2>Alerts</h2>
${alerts.length > 0 ? list(alerts.map(({ kind, says }) => `<b>${escapeMarkup(ALERTS[kind].title)}</b>: ${escapeMarkup(says)}`)) : "<p>None speaks up.</p>"}
<h2>What is wrong</h2>
<p>${escapeMarkup(foundWords(digest))}</p>
${found.length > 0 ? list(found) : ""}
<h2>Moves with the most money</h2>
${moves.length > 0 ? list(moves.map(({ what, about, stake }) => escapeMarkup(`${about}: ${what}. ${spelling.about(stake)} a month`))) : "<p>None is open.</p>"}
</body></html>
`;
}

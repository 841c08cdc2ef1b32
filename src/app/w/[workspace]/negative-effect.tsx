"use client";

import { formatCount, plural } from "@/core/kit/format";
import { METRICS, type AdMeasure } from "@/core/kit/metrics";
import type { NegativesPreview } from "@/server/exclusions/negatives";

/** Terms told one by one. */
const MOST_SHOWN = 10;

/** What negatives would have stopped, which own keywords they silence or cut, and what they stop beside what was picked. */
export function NegativeEffect({
  found,
  noun,
  money,
}: {
  found: NegativesPreview;
  noun: string;
  money: (amount: number) => string;
}) {
  const { also, others, keywords, cut, misread, missing, unmatched } = found;
  const isPlacement = noun === "placement";
  const figures: [AdMeasure, string][] = [
    ...(isPlacement ? [["impressions", plural(found.impressions, "impression")] as [AdMeasure, string]] : []),
    ["clicks", plural(found.clicks, "click")],
    ["cost", `spend ${money(found.cost)}`],
    ["orders", plural(found.orders, "order")],
    ["revenue", `sales ${money(found.revenue)}`],
  ];
  // What no report tells is not 0: it is named, without a figure.
  const known = figures.filter(([measure]) => !missing.includes(measure)).map(([, words]) => words);
  const unknown = figures.flatMap(([measure]) =>
    missing.includes(measure) ? METRICS[measure].label.toLowerCase() : [],
  );
  return (
    <div role="status" className="space-y-2 text-sm num">
      <p>
        Over the last {plural(found.days, "day")} it would have stopped{" "}
        <b>{plural(found.terms, noun, noun === "term or page" ? "terms and pages" : undefined)}</b>
        {known.length > 0 && ` with ${inWords(known)}`}.
      </p>
      {unknown.length > 0 && (
        <p className="text-soft">
          {isPlacement && missing.includes("cost")
            ? "What they cost and brought is not reported."
            : `Not reported: ${unknown.join(", ")}.`}
          {found.whole &&
            found.whole.impressions > 0 &&
            ` Partner media as a whole had ${plural(found.whole.clicks, "click")}, spend ${money(found.whole.cost)} and sales ${money(found.whole.revenue)} on ${formatCount(found.whole.impressions)} impressions.`}
        </p>
      )}
      {unmatched.length > 0 && (
        <p>
          On {plural(unmatched.length, "address", "addresses")} no ad of yours was shown:{" "}
          {unmatched.slice(0, 5).join(", ")}
          {unmatched.length > 5 && " …"}.
        </p>
      )}
      {found.known > 0 && <p className="text-soft">{formatCount(found.known)} of them are kept out already.</p>}
      {found.uncarried.length > 0 && (
        <p className="font-semibold text-ember-strong">
          ▾ {found.channel} will not take that: {found.uncarried.join("; ")}.
        </p>
      )}
      {keywords.length > 0 && (
        <p className="font-semibold text-ember">
          ▾ It silences {plural(keywords.length, "keyword")} of your own: {keywords.slice(0, 5).join(", ")}
          {keywords.length > 5 && " …"}
        </p>
      )}
      {cut.length > 0 && (
        <p>
          {plural(cut.length, "keyword")} of your own {cut.length === 1 ? "goes" : "go"} on without some of{" "}
          {cut.length === 1 ? "its" : "their"} terms:{" "}
          {cut
            .slice(0, 5)
            .map(({ keyword, stopped, of }) => `${keyword} loses ${formatCount(stopped)} of ${formatCount(of)}`)
            .join(", ")}
          {cut.length > 5 ? " …" : "."}
        </p>
      )}
      {misread.length > 0 && (
        <p className="font-semibold text-ember">
          ▾ {plural(misread.length, "line")} {misread.length === 1 ? "is a listing’s page" : "are pages of listings"}:{" "}
          {misread.slice(0, 3).join(", ")}
          {misread.length > 3 && " …"}. A negative for a term does not stop these.
        </p>
      )}
      {also.length > 0 && (
        <>
          <p>
            Beside what you picked it stops <b>{plural(others.terms, "more term")}</b>
            {others.sold > 0 ? `, ${formatCount(others.sold)} of which sold` : ""}
            {others.terms > MOST_SHOWN ? `; the first ${MOST_SHOWN}:` : ":"}
          </p>
          <table className="w-full" aria-label="Stopped as well">
            <thead>
              <tr className="text-left text-xs text-soft">
                <th className="font-normal">Term</th>
                <th className="text-right font-normal">Spend</th>
                <th className="text-right font-normal">Orders</th>
                <th className="text-right font-normal">Sales</th>
              </tr>
            </thead>
            <tbody>
              {also.slice(0, MOST_SHOWN).map(({ label, cost, orders, revenue }) => (
                <tr key={label} className="border-t border-line/60">
                  <td className="py-0.5">{label}</td>
                  <td className="text-right">{money(cost)}</td>
                  <td className="text-right">{formatCount(orders)}</td>
                  <td className="text-right">{money(revenue)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </div>
  );
}

/** Several in one sentence, the last one with "and". */
const inWords = (parts: string[]) =>
  parts.length > 1 ? `${parts.slice(0, -1).join(", ")} and ${parts.at(-1)!}` : (parts[0] ?? "");

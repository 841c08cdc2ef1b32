"use client";

import { useState } from "react";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { Comparison, VersionResult } from "@/server/market/compare";
import { Button } from "@/ui/button";
import { Select } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../../_lib/workspace";
import type { TillStrip } from "@/server/across/results/till";
import { useComparison } from "../../use-comparison";
import { LIVE, WITH_BASKET } from "../../live-words";

/** The account as it is beside the account with the basket, on the same days and draws. */
export function CompareVersions() {
  const [days, setDays] = useState(14);
  const { start, hasJob, isBusy, progress, error, comparison } = useComparison();
  const apiPath = useApiPath();
  const [window] = useDays();
  const till = useApi<TillStrip>(apiPath(`till?days=${window}`));
  return (
    <Surface
      title="Two versions side by side"
      aside={
        <span className="flex items-center gap-2">
          <Select
            aria-label="Days to compare"
            className="w-28!"
            value={days}
            onChange={(event) => setDays(Number(event.target.value))}
          >
            {[7, 14, 30].map((choice) => (
              <option key={choice} value={choice}>
                {plural(choice, "day")}
              </option>
            ))}
          </Select>
          <Button disabled={isBusy} onClick={() => void start(days)}>
            Compare
          </Button>
        </span>
      }
    >
      {isBusy && (
        <p role="status" className="text-sm num">
          Running {progress ? `${progress.done} of ${progress.total ?? 2 * days}` : "…"} days …
        </p>
      )}
      {error && <ErrorNote error={error} />}
      {comparison && till.data && till.data.version !== comparison.version && (
        <p className="mb-2 rounded-md bg-raised px-3 py-2 text-sm font-semibold text-ember-strong">
          ▾ The account was changed or sent since this was compared. Compare again for what it is now.
        </p>
      )}
      {comparison && <Versions comparison={comparison} />}
      {!hasJob && (
        <p className="text-sm text-soft">
          The account {LIVE.toLowerCase()} and {WITH_BASKET.toLowerCase()}, over the same days with the same draws.
          Nothing is kept. The market knows what each is worth in truth, the best account found for the same money, and
          the limit that none can pass.
        </p>
      )}
    </Surface>
  );
}

function Versions({ comparison }: { comparison: Comparison }) {
  const { currency } = useWorkspace();
  const money = (value: number) => formatMoney(value, currency);
  const ratio = (top: number, bottom: number) => (bottom > 0 ? (top / bottom).toFixed(2) : "–");
  const rows: [
    label: string,
    about: string,
    of: (version: VersionResult) => string,
    both?: "cost" | "revenue" | "orders",
  ][] = [
    ["Spend", "As reports will show it.", ({ drawn }) => money(drawn.cost), "cost"],
    ["Ad sales", "As reports will show them, late orders included.", ({ drawn }) => money(drawn.revenue), "revenue"],
    ["ROAS", "Ad sales ÷ spend, as drawn.", ({ drawn }) => ratio(drawn.revenue, drawn.cost)],
    ["Orders", "As drawn.", ({ drawn }) => formatCount(drawn.orders), "orders"],
    ["ROAS in truth", "Without the luck of the draw.", ({ truth }) => ratio(truth.revenue, truth.cost)],
    ["Store sales in truth", "All sales of the shop, with or without an ad.", ({ truth }) => money(truth.storeRevenue)],
    [
      "Contribution",
      "Sales that ads added to the shop’s × margin − spend, over items whose costs are known. What would have come anyway or is sent back does not count.",
      ({ contribution }) => (contribution === null ? "costs not known" : money(contribution)),
    ],
    [
      "of it own pages held",
      "Sales on pages of our own items that rivals would have taken, × margin. No report shows it.",
      ({ held }) => (held === null ? "–" : money(held)),
    ],
    [
      "Best account found",
      "Ad sales for the same money of the best account of one campaign that a search which knows the truth found. It is no limit: a cleverer account may pass it.",
      ({ found }) => money(found.sales),
    ],
    [
      "Share of the best found",
      "Ad sales in truth ÷ those of the best account found.",
      ({ truth, found }) => formatShare(found.sales > 0 ? truth.revenue / found.sales : null),
    ],
    ["Limit", "Ad sales that no account can pass for the same money.", ({ bound }) => money(bound.sales)],
    [
      "Share of the limit",
      "Ad sales in truth ÷ the limit.",
      ({ truth, bound }) => formatShare(bound.sales > 0 ? truth.revenue / bound.sales : null),
    ],
  ];
  return (
    <table className="w-full text-sm num" aria-label="Versions compared">
      <thead>
        <tr className="text-left text-soft">
          <th className="py-1 font-normal">
            {comparison.from} to {comparison.to}
          </th>
          {comparison.versions.map(({ name }) => (
            <th key={name} className="text-right font-normal">
              {name}
            </th>
          ))}
          <th className="text-right font-normal">Difference</th>
          <th
            className="text-right font-normal"
            title="What of the difference is the luck of the draw: without it the difference in truth would be left."
          >
            of it luck
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([label, about, of, both]) => (
          <tr key={label} className="border-t border-line/60" title={about}>
            <td className="py-0.5">{label}</td>
            {comparison.versions.map((version) => (
              <td key={version.name} className="text-right">
                {of(version)}
              </td>
            ))}
            <Differences versions={comparison.versions} of={both} />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** By how much two versions differ as drawn, and how much of that is luck: drawn less true. */
function Differences({ versions, of }: { versions: VersionResult[]; of: "cost" | "revenue" | "orders" | undefined }) {
  const { currency } = useWorkspace();
  const [before, after] = versions;
  if (!of || !before || !after) return <td colSpan={2} />;
  const signed = (value: number) => {
    const size = Math.abs(value);
    const text = of === "orders" ? formatCount(Math.round(size)) : formatMoney(size, currency);
    return `${value < 0 ? "−" : "+"}${text}`;
  };
  const drawn = after.drawn[of] - before.drawn[of];
  const luck = drawn - (after.truth[of] - before.truth[of]);
  return (
    <>
      <td className="text-right font-semibold">{signed(drawn)}</td>
      <td className="text-right text-soft">{signed(luck)}</td>
    </>
  );
}

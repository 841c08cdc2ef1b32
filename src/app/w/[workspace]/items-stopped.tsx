"use client";

import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { AdMeasure } from "@/core/kit/metrics";
import type { ItemsStopped } from "@/server/exclusions/items-stopped";
import { useAsk } from "../../_lib/api";
import { useApiPath, useWorkspace } from "../../_lib/workspace";

/** What items brought that are about to get no ads, those that pay by name. */
export function ItemsStoppedWords({ items, campaign }: { items: string[]; campaign: string | null }) {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const { data } = useAsk<ItemsStopped | null>(
    apiPath("exclusions/look"),
    { items, campaign },
    {
      placeholderData: (before) => before,
    },
  );
  const money = (mills: number) => formatMoney(mills, currency);
  /** A figure, or that no report tells it. */
  const told = (measure: AdMeasure, words: string, what = "") =>
    data?.missing.includes(measure) ? `${what} not reported`.trim() : words;
  // The place is there from the start, so that nothing moves away from under somebody's hand.
  return (
    <div role="status" aria-label="What stops" className="min-h-12 space-y-1 text-sm num">
      {data === undefined && <span className="text-soft">Looking what stops …</span>}
      {data === null && <span className="text-soft">There are no results yet that could tell what stops.</span>}
      {data && (
        <p>
          In the last {plural(data.days, "day")} {campaign === null ? "" : "it "}
          {campaign === null ? "they had" : "showed them for"}{" "}
          {told("clicks", plural(data.sums.clicks, "click"), "clicks")}, spend{" "}
          <b>{told("cost", money(data.sums.cost))}</b>, {told("orders", plural(data.sums.orders, "order"), "orders")}{" "}
          and ad sales <b>{told("revenue", money(data.sums.revenue))}</b>
          {data.sums.cost > 0 &&
            !data.missing.includes("revenue") &&
            `, a return of ${(data.sums.revenue / data.sums.cost).toFixed(2)}`}
          .
        </p>
      )}
      {data && data.paid > 0 && (
        <p className="font-semibold text-ember-strong">
          ▾ {plural(data.paid, "item")} brought the goal of {data.goal.toFixed(2)} or more:{" "}
          {data.paying
            .map(({ title, cost, revenue }) => `${title} (${(revenue / cost).toFixed(2)} on ${money(cost)})`)
            .join(", ")}
          {data.paid > data.paying.length && ` and ${formatCount(data.paid - data.paying.length)} more`}.
        </p>
      )}
    </div>
  );
}

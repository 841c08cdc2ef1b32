"use client";

import { TriangleAlert } from "lucide-react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { ChannelView } from "@/server/dispatch/channel-view";
import type { BasketView } from "@/server/dispatch/basket";
import type { NegativesEffect } from "@/server/dispatch/negatives-effect";
import { Button } from "@/ui/button";
import { Surface } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { useComparison } from "../use-comparison";
import { BasketList } from "./basket-list";
import { NotCarried } from "./not-carried";

/** Days that both versions are tried on. */
const TRIAL_DAYS = 14;

/** What lies in the basket: what changes, what that should do, what the checks say, and every change. */
export function BasketReview({
  basket,
  onRemove,
}: {
  basket: BasketView;
  onRemove: (keys: string[] | object) => Promise<void>;
}) {
  const { homes, leaks, checks, readable, summary } = basket;
  return (
    <>
      <div className="grid grid-cols-3 gap-4">
        <Surface title={`What changes · ${plural(basket.total, "record")}`}>
          <ul className="space-y-1">
            {summary.map((sentence) => (
              <li key={sentence} className="num">
                {sentence}
              </li>
            ))}
            {basket.total > readable && (
              <li className="text-soft num">
                {plural(basket.total - readable, "record")} of them only{" "}
                {basket.total - readable === 1 ? "holds" : "hold"} the groups together or close
                {basket.total - readable === 1 ? "s" : ""} what is not named.
              </li>
            )}
          </ul>
        </Surface>
        <EffectPanel basket={basket} />
        <Surface title="Proof and checks">
          <p className="num">
            After sending: {formatCount(homes.one)} items with one home, {formatCount(homes.several)} with several,{" "}
            {formatCount(homes.none - homes.soldOut)} without
            {homes.soldOut > 0 && ` (and ${formatCount(homes.soldOut)} sold out)`}; {plural(leaks.length, "leak")}.
          </p>
          {checks.length === 0 ? (
            <p className="mt-1">All checks passed.</p>
          ) : (
            <ul className="mt-1 space-y-1">
              {checks.map((check) => (
                <li key={check.code} className="flex gap-1.5">
                  <TriangleAlert aria-hidden className="mt-0.5 size-4 shrink-0 text-ember" />
                  <span>
                    {check.message}{" "}
                    {check.grave ? <b>Must be put right first.</b> : <span className="text-soft">May be sent.</span>}
                  </span>
                </li>
              ))}
            </ul>
          )}
          {checks.some(({ code }) => code.startsWith("not-carried")) && <NotCarried onRemove={onRemove} />}
        </Surface>
      </div>
      <BasketList onRemove={onRemove} />
    </>
  );
}

/** What new negatives would have stopped a day, as it was said before they were kept. */
function NegativesWords({
  effect: { terms, placements },
  money,
}: {
  effect: NegativesEffect;
  money: (amount: number) => string;
}) {
  const known = (amount: number | null) => (amount === null ? "not reported" : money(Math.round(amount)));
  return (
    <>
      {terms && (
        <p className="mt-1 num">
          {plural(terms.negatives, "negative")} would have stopped{" "}
          {plural(terms.places, "term or page", "terms and pages")} over {plural(terms.days, "day")}: spend{" "}
          <b>{known(terms.cost)}</b> and ad sales <b>{known(terms.revenue)}</b> a day.
        </p>
      )}
      {placements && (
        <p className="mt-1 num">
          {plural(placements.negatives, "placement")} kept out: {formatCount(Math.round(placements.impressions ?? 0))}{" "}
          impressions a day stop
          {placements.cost === null
            ? "; what they cost and brought is not reported."
            : `, spend ${known(placements.cost)} and ad sales ${known(placements.revenue)}.`}
        </p>
      )}
    </>
  );
}

/**
 * What the basket should do. Past results tell of items that stop or get another bid and of what new negatives stop; how many
 * changes have no part in that is said beside it, and both versions can be tried on the test market.
 */
function EffectPanel({ basket: { effect, negatives, budget, version } }: { basket: BasketView }) {
  const { currency } = useWorkspace();
  const trial = useComparison();
  const channel = useApi<ChannelView>(useApiPath()("channel")).data;
  const money = (amount: number) => formatMoney(amount, currency);
  const signed = (amount: number) => `${amount < 0 ? "−" : "+"}${money(Math.abs(amount))}`;
  const compared = trial.comparison?.version === version ? trial.comparison : null;
  const [now, then] = compared?.versions ?? [];
  const aDay = (of: "cost" | "revenue") =>
    now && then ? Math.round((then.truth[of] - now.truth[of]) / Math.max(1, now.days.length)) : 0;
  const touched = effect !== null && (effect.stopped > 0 || effect.repriced > 0);
  // Where campaigns come or go, items stand in other money: what is known of their bids alone would mislead.
  const parts = touched && !effect.isRestructured;
  const stops = negatives.terms !== null || negatives.placements !== null;
  const replayed = (negatives.terms?.negatives ?? 0) + (negatives.placements?.negatives ?? 0);
  const unknown = Math.max(0, (effect?.unknown ?? 0) - replayed);
  return (
    <Surface title="What it should do">
      {compared ? (
        <p className="num">
          On the test market, {compared.from} to {compared.to}: <b>{signed(aDay("cost"))}</b> spend and{" "}
          <b>{signed(aDay("revenue"))}</b> ad sales a day, without the luck of the draw.
        </p>
      ) : effect && parts ? (
        <p className="num">
          About <b>{signed(effect.cost)}</b> spend and <b>{signed(effect.revenue)}</b> ad sales a day:{" "}
          {plural(effect.stopped, "item")} with results {effect.stopped === 1 ? "stops" : "stop"},{" "}
          {formatCount(effect.repriced)} {effect.repriced === 1 ? "gets" : "get"} another bid.
        </p>
      ) : unknown > 0 || stops ? null : (
        <p>No item stops or changes its bid.</p>
      )}
      {!compared && stops && <NegativesWords effect={negatives} money={money} />}
      {!compared && unknown > 0 && (
        <p className={parts || stops ? "mt-1 text-soft num" : "num"}>
          Past results do not tell of {parts || stops ? plural(unknown, "other change") : plural(unknown, "change")}{" "}
          (such as new structure, targets, budgets, factors): {unknown === 1 ? "it has" : "they have"} none to go by
          {parts || stops ? ", and no part in these figures" : ""}.
        </p>
      )}
      {!compared && touched && !parts && (
        <p className="mt-1 text-soft num">
          {plural(effect.stopped, "item")} with results {effect.stopped === 1 ? "stops" : "stop"} and{" "}
          {formatCount(effect.repriced)} {effect.repriced === 1 ? "gets" : "get"} another bid; what that brings in new
          campaigns nobody knows before.
        </p>
      )}
      {!compared && parts && (
        <p className="mt-1 text-xs text-soft">
          From the last 30 days; bids by a rule of thumb (10 % more bid, 6 % more clicks).
        </p>
      )}
      {budget.before !== budget.after && (
        <p className="mt-1 num">
          Budget a day: {money(budget.before)} → <b>{money(budget.after)}</b>
        </p>
      )}
      {!compared && channel?.kind === "market" && (
        <Button className="mt-2" disabled={trial.isBusy} onClick={() => void trial.start(TRIAL_DAYS)}>
          {trial.isBusy
            ? `Trying, ${trial.progress?.done ?? 0} of ${trial.progress?.total ?? 2 * TRIAL_DAYS} days …`
            : "Try both on the test market"}
        </Button>
      )}
    </Surface>
  );
}

"use client";

import { TriangleAlert } from "lucide-react";
import { isTold } from "@/core/dispatch/effect";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { ChannelView } from "@/server/dispatch/channel-view";
import type { BasketView } from "@/server/dispatch/basket";
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
                {plural(basket.total - readable, "record")} of them only hold the groups together or close what is not
                named.
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

/**
 * What the basket should do. Past results tell of items that stop or get another bid; where more changes than that, no
 * figure stands there, and both versions can be tried on the test market.
 */
function EffectPanel({ basket: { effect, budget, version } }: { basket: BasketView }) {
  const { currency } = useWorkspace();
  const trial = useComparison();
  const channel = useApi<ChannelView>(useApiPath()("channel")).data;
  const money = (amount: number) => formatMoney(amount, currency);
  const signed = (amount: number) => `${amount < 0 ? "−" : "+"}${money(Math.abs(amount))}`;
  const compared = trial.comparison?.version === version ? trial.comparison : null;
  const [now, then] = compared?.versions ?? [];
  const aDay = (of: "cost" | "revenue") =>
    now && then ? Math.round((then.truth[of] - now.truth[of]) / Math.max(1, now.days.length)) : 0;
  const parts = effect && (effect.stopped > 0 || effect.repriced > 0);
  return (
    <Surface title="What it should do">
      {compared ? (
        <p className="num">
          On the test market, {compared.from} to {compared.to}: <b>{signed(aDay("cost"))}</b> spend and{" "}
          <b>{signed(aDay("revenue"))}</b> ad sales a day, without the luck of the draw.
        </p>
      ) : effect && isTold(effect) ? (
        <p className="num">
          About <b>{signed(effect.cost)}</b> spend and <b>{signed(effect.revenue)}</b> ad sales a day:{" "}
          {plural(effect.stopped, "item")} with results stop, {formatCount(effect.repriced)} get another bid.
        </p>
      ) : effect && effect.unknown > 0 ? (
        <p className="num">
          Past results do not tell: {plural(effect.unknown, "change")} (new structure, targets, negatives, budgets,
          factors) {effect.unknown === 1 ? "has" : "have"} none to go by.
        </p>
      ) : (
        <p>No item stops or changes its bid.</p>
      )}
      {!compared && parts && effect.unknown > 0 && (
        <p className="mt-1 text-soft num">
          Of the rest, {plural(effect.stopped, "item")} with results stop and {formatCount(effect.repriced)} get another
          bid.
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

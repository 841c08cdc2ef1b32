"use client";

import { formatDistanceToNowStrict } from "date-fns";
import Link from "next/link";
import type { ReactNode } from "react";
import { formatCount, NO_VALUE, plural } from "@/core/kit/format";
import { formatMoneyRound, formatMoneyShort } from "@/core/kit/money";
import { dayLabel, parseDay } from "@/core/kit/days";
import { REPORT_LABEL } from "@/core/results/reports/report-kinds";
import type { TillStrip as Till } from "@/server/across/results/till";
import { isTold } from "@/core/dispatch/effect";
import type { BasketView } from "@/server/dispatch/basket";
import { useApi } from "../../_lib/api";
import { useApiPath, useWorkspace } from "../../_lib/workspace";

/** Always there: return against goal, spend against budget, homes, leaks, ages, and the basket. */
export function TillStrip({ till }: { till: Till | undefined }) {
  const { slug, currency } = useWorkspace();
  const apiPath = useApiPath();
  const basket = useApi<BasketView>(till && till.basket > 0 ? apiPath("basket?limit=1") : null);
  // Without a feed nobody knows what has a home.
  const knowsItems = till !== undefined && till.items > 0;
  const money = (amount: number) => formatMoneyShort(amount, currency);
  const effect = basket.data?.effect;
  // Both are read anew after a change, one before the other: an older estimate does not stand beside a newer count.
  const hasEffect = effect && basket.data?.version === till?.version && isTold(effect);
  return (
    <footer
      aria-label="Till strip"
      className="col-span-full flex h-11 items-center gap-5 overflow-hidden bg-till px-5 text-sm whitespace-nowrap text-till-ink num"
    >
      <Figure label="Return">
        {till?.roas == null ? NO_VALUE : till.roas.toFixed(2)}
        <span className="font-normal"> of {till?.goal ?? NO_VALUE}</span>
        {till?.roas != null && till.roas < till.goal && (
          <span className="font-normal text-till-mark"> · below goal</span>
        )}
      </Figure>
      <Figure label="Spend">
        {till?.lastDayCost == null ? NO_VALUE : money(till.lastDayCost)}
        <span className="font-normal">
          {" "}
          {till?.lastDayBudget != null && `of ${money(till.lastDayBudget)} `}last day
          {till?.source && `, by the ${REPORT_LABEL[till.source].toLowerCase()}`}
        </span>
      </Figure>
      <Figure
        label="Without home"
        about="Items that no group serves and nobody left out. A home is the group that serves an item; sold-out items are not counted."
        href={`/w/${slug}/planogram`}
        marked={(till?.withoutHome ?? 0) > 0}
      >
        {knowsItems ? formatCount(till.withoutHome) : NO_VALUE}
      </Figure>
      <Figure
        label="Leaks"
        about="Open remainders: groups that bid on whatever their split does not name."
        href={`/w/${slug}/planogram`}
        marked={(till?.leaks ?? 0) > 0}
      >
        {knowsItems ? till.leaks : NO_VALUE}
      </Figure>
      <Figure label="Feed" href={`/w/${slug}/catalogue`}>
        <span className="font-normal" suppressHydrationWarning>
          {till?.feedReadAt ? `${formatDistanceToNowStrict(till.feedReadAt)} old` : "none yet"}
        </span>
      </Figure>
      <Figure label="Results to" href={`/w/${slug}/results`}>
        <span className="font-normal">{till?.resultsTo ? dayLabel(parseDay(till.resultsTo)) : "none yet"}</span>
      </Figure>
      <Link
        href={`/w/${slug}/dispatch`}
        className="ml-auto rounded-md border border-till-soft/50 px-3 py-1 font-semibold text-till-ink hover:bg-white/10"
      >
        {till && till.basket > 0 ? (
          <>
            Basket · {plural(till.basket, "change")}
            {hasEffect &&
              ` · about ${signed(effect.cost, currency)} spend, ${signed(effect.revenue, currency)} sales a day`}
          </>
        ) : (
          "Basket empty"
        )}
      </Link>
    </footer>
  );
}

/** An estimate, so whole units are enough. */
function signed(amount: number, currency: string): string {
  return `${amount < 0 ? "−" : "+"}${formatMoneyRound(Math.abs(amount), currency)}`;
}

function Figure({
  label,
  about,
  href,
  marked,
  children,
}: {
  label: string;
  /** What it means, where the word is one of ours. */
  about?: string;
  href?: string;
  marked?: boolean;
  children: ReactNode;
}) {
  const inner = (
    <>
      <span className="text-till-soft">{label}</span>{" "}
      <b className={marked ? "text-till-mark" : undefined}>{children}</b>
    </>
  );
  return href ? (
    <Link href={href} className="hover:underline" title={about}>
      {inner}
    </Link>
  ) : (
    <span title={about}>{inner}</span>
  );
}

"use client";

import { formatOf } from "@/core/kit/format";
import { METRICS, valueOf, type MetricKey, type Sums } from "@/core/kit/metrics";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../../_lib/workspace";
import type { Language } from "./use-results";

const HEADLINES: Record<Language, MetricKey[]> = {
  return: ["cost", "revenue", "roas", "acos", "tacos", "orders", "cpc", "storeRevenue"],
  share: ["cost", "revenue", "acos", "tacos", "adDependence", "orders", "cpc", "storeRevenue"],
};

/** Characters from which a figure is written smaller, so that millions stay in their box. */
const LONG = 11;

/** A relative change in whole percent with its sign. */
export function changeText(now: number | null, then: number | null, without = "nothing before"): string {
  if (now === null || then === null || then === 0) return now ? without : "";
  const percent = Math.round((now / then - 1) * 100);
  return percent === 0 ? "unchanged" : `${percent < 0 ? "−" : "+"}${Math.abs(percent)} %`;
}

/** The goal as people speak of it: a return, or the share of sales that ads may cost. */
export function goalText(goal: number, language: Language): string {
  return language === "return" ? `${goal}` : `${Math.round(1000 / goal) / 10} %`;
}

/** The figures of the whole, each with its change against the window compared with. */
export function Headlines({
  now,
  before,
  missing,
  language,
}: {
  now: Sums;
  before: Sums | null;
  /** What the report does not tell. */
  missing: (keyof Sums)[];
  language: Language;
}) {
  const { currency, goal } = useWorkspace();
  const keys = HEADLINES[language];
  return (
    <dl className="grid grid-cols-8 divide-x divide-line rounded-lg border border-line bg-surface">
      {keys.map((key) => {
        const { label, about } = METRICS[key];
        const value = valueOf(key, now, missing);
        const isMissing = METRICS[key].needs.some((need) => missing.includes(need));
        const isGoal = key === (language === "return" ? "roas" : "acos");
        return (
          <div key={key} className="px-3 py-2" title={about}>
            <dt className="text-xs text-soft">{label}</dt>
            <dd>
              <span
                className={cx(
                  "block font-display leading-tight font-semibold num",
                  formatOf(key, now, missing, currency).length > LONG ? "text-[15px]" : "text-lg",
                )}
              >
                {formatOf(key, now, missing, currency)}
              </span>
              <span className="block text-xs text-soft num">
                {[
                  isGoal ? `goal ${goalText(goal, language)}` : "",
                  isMissing ? "not reported" : before ? changeText(value, valueOf(key, before, missing)) : "",
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </dd>
          </div>
        );
      })}
    </dl>
  );
}

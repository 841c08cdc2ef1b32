"use client";

import { formatOf } from "@/core/kit/format";
import { METRICS, valueOf, type MetricKey, type Sums } from "@/core/kit/metrics";
import { useWorkspace } from "../../../_lib/workspace";
import type { Language } from "./asks";

const HEADLINES: Record<Language, MetricKey[]> = {
  return: ["cost", "revenue", "roas", "tacos", "orders", "cpc", "storeRevenue"],
  share: ["cost", "revenue", "acos", "tacos", "adDependence", "orders", "cpc", "storeRevenue"],
};

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

/** The figures of the whole in one line of type, each with its change against the window compared with; each opens its days. */
export function Headlines({
  now,
  before,
  missing,
  language,
  opened,
  onOpen,
}: {
  now: Sums;
  before: Sums | null;
  /** What the report does not tell. */
  missing: (keyof Sums)[];
  language: Language;
  /** The figures whose days are drawn. */
  opened: readonly MetricKey[];
  onOpen: (key: MetricKey) => void;
}) {
  const { currency, goal } = useWorkspace();
  return (
    <ul aria-label="Figures" className="-mx-1.5 flex flex-wrap gap-x-2 text-sm num">
      {HEADLINES[language].map((key) => {
        const { label, about } = METRICS[key];
        const isMissing = METRICS[key].needs.some((need) => missing.includes(need));
        const isGoal = key === (language === "return" ? "roas" : "acos");
        const change = before ? changeText(valueOf(key, now, missing), valueOf(key, before, missing)) : "";
        return (
          <li key={key}>
            <button
              type="button"
              title={about}
              aria-pressed={opened.includes(key)}
              onClick={() => onOpen(key)}
              className="rounded px-1.5 py-0.5 whitespace-nowrap hover:bg-raised aria-pressed:bg-petrol-wash"
            >
              <span className="text-soft">{label}</span> <b>{formatOf(key, now, missing, currency)}</b>
              <span className="text-xs text-soft">
                {isGoal && ` of ${goalText(goal, language)}`} {isMissing ? "not reported" : change}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}

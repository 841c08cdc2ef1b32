import { useState } from "react";
import { METRICS, type MetricKey } from "@/core/kit/metrics";
import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { cx } from "@/ui/cx";
import { Select } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { ReturnScatter } from "./return-scatter";
import { TimeChart } from "./time-chart";
import { CHARTS, type useResultsView } from "./use-results";

const BAR_METRICS: MetricKey[] = ["cost", "revenue", "orders", "clicks", "impressions", "units", "storeRevenue"];

/** The two amounts that the chart shows as bars. */
function useBars() {
  const [state, set] = useState<[MetricKey, MetricKey]>(["cost", "revenue"]);
  const setState = (at: 0 | 1, key: MetricKey) => set(at === 0 ? [key, state[1]] : [state[0], key]);
  return { state, setState };
}

/** The lines by day, or spend against return; which of them is in the address. */
export function Charts({
  slice,
  days,
  chart,
  language,
  onChart,
  onOpen,
}: {
  slice: Slice;
  days: Slice | undefined;
  chart: (typeof CHARTS)[number];
  language: ReturnType<typeof useResultsView>["state"]["lang"];
  onChart: (chart: (typeof CHARTS)[number]) => void;
  onOpen: (line: SliceLine) => void;
}) {
  const { state, setState } = useBars();
  return (
    <section aria-label="Chart" className="rounded-lg border border-line bg-surface p-3">
      <div className="mb-2 flex items-center gap-2 text-sm">
        {CHARTS.map((choice) => (
          <button
            key={choice}
            type="button"
            aria-pressed={chart === choice}
            className={cx(
              "h-7 rounded-md px-2.5",
              chart === choice ? "bg-petrol-wash font-semibold" : "text-petrol hover:bg-raised",
            )}
            onClick={() => onChart(choice)}
          >
            {choice === "time" ? "Day by day" : `Spend against ${language === "return" ? "return" : "cost share"}`}
          </button>
        ))}
        {chart === "time" && (
          <span className="ml-auto flex items-center gap-2">
            {([0, 1] as const).map((at) => (
              <Select
                key={at}
                aria-label={at === 0 ? "First bars" : "Second bars"}
                className="h-7! w-36!"
                value={state[at]}
                onChange={(event) => setState(at, event.target.value as MetricKey)}
              >
                {BAR_METRICS.map((key) => (
                  <option key={key} value={key}>
                    {METRICS[key].label}
                  </option>
                ))}
              </Select>
            ))}
          </span>
        )}
      </div>
      {chart === "scatter" ? (
        <ReturnScatter lines={slice.lines} language={language} onOpen={onOpen} />
      ) : days?.from && days.to ? (
        <TimeChart
          days={days.lines}
          from={days.from}
          to={days.to}
          bars={state}
          missing={days.missingOfTotal}
          language={language}
          incompleteDays={slice.incompleteDays}
        />
      ) : (
        <Loading what="days" />
      )}
    </section>
  );
}

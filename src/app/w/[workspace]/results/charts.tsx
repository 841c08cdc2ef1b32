import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { cx } from "@/ui/cx";
import { Select } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { ReturnScatter } from "./return-scatter";
import { TimeChart } from "./time-chart";
import { CHARTS } from "./asks";
import { type useResultsView } from "./use-results";

export type Bars = [MetricKey, MetricKey];

/** The lines by day, or spend against return; which of them is in the address. */
export function Charts({
  slice,
  days,
  chart,
  bars,
  onBars,
  language,
  onChart,
  onOpen,
}: {
  slice: Slice;
  days: Slice | undefined;
  chart: (typeof CHARTS)[number];
  /** The two figures that are drawn as bars. */
  bars: Bars;
  onBars: (bars: Bars) => void;
  language: ReturnType<typeof useResultsView>["state"]["lang"];
  onChart: (chart: (typeof CHARTS)[number]) => void;
  onOpen: (line: SliceLine) => void;
}) {
  const setBar = (at: 0 | 1, key: MetricKey) => onBars(at === 0 ? [key, bars[1]] : [bars[0], key]);
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
                value={bars[at]}
                onChange={(event) => setBar(at, event.target.value as MetricKey)}
              >
                {METRIC_KEYS.map((key) => (
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
          bars={bars}
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

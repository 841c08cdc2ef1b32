"use client";

import {
  Area,
  Bar,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { dayLabel, formatDay, parseDay } from "@/core/kit/days";
import { formatMetric } from "@/core/kit/format";
import { addSums, METRICS, valueOf, noSums, type MetricKey, type Sums } from "@/core/kit/metrics";
import { toUnits } from "@/core/kit/money";
import { useWorkspace } from "../../../_lib/workspace";
import type { Language } from "./asks";

/** Days over which a ratio is summed, so that one lucky order does not make a peak. */
const SMOOTH_DAYS = 7;

function isRatio(key: MetricKey): boolean {
  const { kind } = METRICS[key];
  return kind === "ratio" || kind === "percent" || key === "cpc" || key === "aov" || key === "rpc";
}

/** Two amounts as bars, and the ratio towards the goal over the last seven days as a line; unfinished days are shaded. */
export function TimeChart({
  days,
  from,
  to,
  bars,
  missing,
  language,
  incompleteDays,
}: {
  days: { key: string; sums: Sums }[];
  from: string;
  to: string;
  bars: [MetricKey, MetricKey];
  /** What the report does not tell; a day of it is a gap and not nought. */
  missing: (keyof Sums)[];
  language: Language;
  incompleteDays: number;
}) {
  const { currency, goal } = useWorkspace();
  const line: MetricKey = language === "return" ? "roas" : "acos";
  const target = language === "return" ? goal : 1 / goal;
  const byDay = new Map(days.map(({ key, sums }) => [key, sums]));
  const span = Array.from({ length: parseDay(to) - parseDay(from) + 1 }, (_, i) => formatDay(parseDay(from) + i));
  const sumsOf = (key: MetricKey, i: number): Sums => {
    if (!isRatio(key)) return byDay.get(span[i]!) ?? noSums();
    const sum = noSums();
    for (const day of span.slice(Math.max(0, i - SMOOTH_DAYS + 1), i + 1)) addSums(sum, byDay.get(day) ?? noSums());
    return sum;
  };
  const value = (key: MetricKey, i: number) => {
    const found = valueOf(key, sumsOf(key, i), missing);
    return found !== null && METRICS[key].kind === "money" ? toUnits(found) : found;
  };
  const data = span.map((day, i) => ({
    day: dayLabel(parseDay(day)),
    first: value(bars[0], i),
    second: value(bars[1], i),
    line: value(line, i),
    // Days whose orders are still coming in stand on a shade.
    shade: i >= span.length - incompleteDays ? 1 : null,
  }));
  const shown = (key: MetricKey, number: number) =>
    formatMetric(key, METRICS[key].kind === "money" ? number * 1000 : number, currency);
  const tick = { fontSize: 11, fill: "var(--soft)" };
  // Figures of another kind than the first have a scale of their own, which their numbers on pointing at a day tell.
  const second = METRICS[bars[0]].kind === METRICS[bars[1]].kind ? "amount" : "other";
  const isPercent = METRICS[line].kind === "percent";
  return (
    <figure aria-label={`${METRICS[bars[0]].label}, ${METRICS[bars[1]].label} and ${METRICS[line].label} by day`}>
      <div className="h-28">
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={data} margin={{ top: 6, right: 0, bottom: 0, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--line)" />
            <XAxis dataKey="day" tick={tick} minTickGap={50} tickLine={false} axisLine={{ stroke: "var(--line)" }} />
            <YAxis yAxisId="amount" tick={tick} width={54} tickLine={false} axisLine={false} />
            <YAxis
              yAxisId="ratio"
              orientation="right"
              tick={tick}
              width={40}
              tickLine={false}
              axisLine={false}
              domain={[0, "auto"]}
              tickFormatter={(tickValue: number) =>
                isPercent ? `${Math.round(tickValue * 100)} %` : String(tickValue)
              }
            />
            <Tooltip
              contentStyle={{ background: "var(--surface)", border: "1px solid var(--line)", borderRadius: 6 }}
              formatter={(number, _name, entry) => {
                const key = entry.dataKey === "first" ? bars[0] : entry.dataKey === "second" ? bars[1] : line;
                return shown(key, Number(number));
              }}
            />
            <YAxis yAxisId="other" hide domain={[0, "auto"]} />
            <YAxis yAxisId="shade" hide domain={[0, 1]} />
            <Area
              yAxisId="shade"
              dataKey="shade"
              type="step"
              stroke="none"
              fill="var(--line)"
              fillOpacity={0.7}
              isAnimationActive={false}
              tooltipType="none"
            />
            <Bar
              yAxisId="amount"
              dataKey="first"
              name={METRICS[bars[0]].label}
              fill="var(--spend)"
              isAnimationActive={false}
            />
            <Bar
              yAxisId={second}
              dataKey="second"
              name={METRICS[bars[1]].label}
              fill="var(--petrol)"
              isAnimationActive={false}
            />
            <ReferenceLine yAxisId="ratio" y={target} stroke="var(--ember)" strokeDasharray="5 4" />
            <Line
              yAxisId="ratio"
              dataKey="line"
              name={`${METRICS[line].label}, 7 days`}
              stroke="var(--ember)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="flex flex-wrap gap-x-4 text-xs text-soft">
        <span>
          <i className="mr-1 inline-block size-2.5 bg-spend" /> {METRICS[bars[0]].label}
        </span>
        <span>
          <i className="mr-1 inline-block size-2.5 bg-petrol" /> {METRICS[bars[1]].label}
        </span>
        <span>
          <i className="mr-1 inline-block h-0.5 w-4 bg-ember align-middle" /> {METRICS[line].label} over 7 days (right),
          goal dashed
        </span>
        {incompleteDays > 0 && (
          <span>
            <i className="mr-1 inline-block size-2.5 bg-line" /> orders still coming in
          </span>
        )}
      </figcaption>
    </figure>
  );
}

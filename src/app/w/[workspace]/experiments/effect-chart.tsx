"use client";

import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { dayLabel } from "@/core/kit/days";
import { MEASURES, type MeasureKey } from "@/core/experiments/measures";
import { amountInWords } from "@/core/experiments/verdict";
import { toUnits } from "@/core/kit/money";
import type { Point } from "@/server/experiments/look";
import { useWorkspace } from "../../../_lib/workspace";

/** What an experiment was known to do after each day, with ends that hold on whatever day one looks. */
export function EffectChart({ points, measure, least }: { points: Point[]; measure: MeasureKey; least: number }) {
  const { currency } = useWorkspace();
  const unit = (value: number) => (MEASURES[measure].unit === "money" ? toUnits(value) : value);
  const back = (value: number) => (MEASURES[measure].unit === "money" ? value * 1000 : value);
  const data = points.map(({ day, mean, low, high }) => ({ day, mean: unit(mean), band: [unit(low), unit(high)] }));
  const tick = { fontSize: 11, fill: "var(--soft)" };
  const words = (value: unknown) => amountInWords(measure, back(Number(value)), currency);
  // The first days know so little that their ends would flatten all the rest.
  const later = points.slice(Math.floor(points.length / 2));
  const ends = later.flatMap(({ low, high }) => [Math.abs(unit(low)), Math.abs(unit(high))]);
  const most = roundUp(1.1 * Math.max(...ends, unit(least)));
  return (
    <figure aria-label="Effect a day, as it was known after each day">
      <div className="h-48">
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={data} margin={{ top: 8, right: 12, bottom: 0, left: 0 }}>
            <CartesianGrid stroke="var(--line)" />
            <XAxis
              dataKey="day"
              type="number"
              domain={["dataMin", "dataMax"]}
              tick={tick}
              tickLine={false}
              axisLine={{ stroke: "var(--line)" }}
              tickFormatter={(day: number) => dayLabel(day)}
            />
            <YAxis
              tick={tick}
              width={52}
              tickLine={false}
              axisLine={false}
              domain={[-most, most]}
              ticks={[-most, -most / 2, 0, most / 2, most]}
              allowDataOverflow
              tickFormatter={(value: number) => value.toFixed(most < 10 ? 1 : 0)}
            />
            <Tooltip
              contentStyle={{ background: "var(--surface)", border: "1px solid var(--line)", borderRadius: 6 }}
              labelFormatter={(day) => dayLabel(Number(day))}
              formatter={(value, name) => [Array.isArray(value) ? value.map(words).join(" to ") : words(value), name]}
            />
            <Area
              dataKey="band"
              name="holds on any day"
              stroke="none"
              fill="var(--petrol)"
              fillOpacity={0.14}
              isAnimationActive={false}
            />
            <Line
              dataKey="mean"
              name="Effect a day"
              stroke="var(--petrol)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
            <ReferenceLine y={0} stroke="var(--ink)" />
            <ReferenceLine y={unit(least)} stroke="var(--soft)" strokeDasharray="4 3" />
            <ReferenceLine y={-unit(least)} stroke="var(--soft)" strokeDasharray="4 3" />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-xs text-soft">
        Effect a day over days that count. The band holds the truth on whatever day one looks; dashed is what matters.
      </figcaption>
    </figure>
  );
}

/** The next number of one or two digits and noughts, so that the axis has such numbers. */
function roundUp(value: number): number {
  const step = 10 ** Math.floor(Math.log10(value)) / 2;
  return step * Math.ceil(value / step);
}

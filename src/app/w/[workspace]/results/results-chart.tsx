"use client";

import {
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
import { dayLabel, parseDay } from "@/core/kit/days";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { SeriesPoint } from "@/server/results/results";
import { useWorkspace } from "../../../_lib/workspace";

/** Days over which the return line is summed, so that one lucky order does not make a peak. */
const SMOOTH_DAYS = 7;

/** Spend and ad sales as bars, return over the last seven days as a line against the goal. */
export function ResultsChart({ points, goal }: { points: SeriesPoint[]; goal: number }) {
  const { currency } = useWorkspace();
  const data = points.map(({ day, sums }, i) => {
    const span = points.slice(Math.max(0, i - SMOOTH_DAYS + 1), i + 1);
    const cost = span.reduce((sum, point) => sum + point.sums.cost, 0);
    const revenue = span.reduce((sum, point) => sum + point.sums.revenue, 0);
    return {
      day: dayLabel(parseDay(day)),
      spend: toUnits(sums.cost),
      sales: toUnits(sums.revenue),
      roas: cost > 0 ? revenue / cost : null,
    };
  });
  const tick = { fontSize: 11, fill: "var(--soft)" };
  return (
    <figure>
      <div className="h-44">
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={data} margin={{ top: 6, right: 0, bottom: 0, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--line)" />
            <XAxis dataKey="day" tick={tick} minTickGap={50} tickLine={false} axisLine={{ stroke: "var(--line)" }} />
            <YAxis yAxisId="money" tick={tick} width={54} tickLine={false} axisLine={false} />
            <YAxis
              yAxisId="return"
              orientation="right"
              tick={tick}
              width={34}
              tickLine={false}
              axisLine={false}
              domain={[0, "auto"]}
            />
            <Tooltip
              contentStyle={{ background: "var(--surface)", border: "1px solid var(--line)", borderRadius: 6 }}
              formatter={(value, name) =>
                name === "Return, 7 days" ? Number(value).toFixed(2) : formatMoney(Number(value) * 1000, currency)
              }
            />
            <Bar yAxisId="money" dataKey="spend" name="Spend" fill="var(--spend)" isAnimationActive={false} />
            <Bar yAxisId="money" dataKey="sales" name="Ad sales" fill="var(--petrol)" isAnimationActive={false} />
            <ReferenceLine yAxisId="return" y={goal} stroke="var(--ember)" strokeDasharray="5 4" />
            <Line
              yAxisId="return"
              dataKey="roas"
              name="Return, 7 days"
              stroke="var(--ember)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="flex gap-4 text-xs text-soft">
        <span>
          <i className="mr-1 inline-block size-2.5 bg-spend" /> Spend
        </span>
        <span>
          <i className="mr-1 inline-block size-2.5 bg-petrol" /> Ad sales
        </span>
        <span>
          <i className="mr-1 inline-block h-0.5 w-4 bg-ember align-middle" /> Return over 7 days (right), goal {goal}{" "}
          dashed
        </span>
      </figcaption>
    </figure>
  );
}

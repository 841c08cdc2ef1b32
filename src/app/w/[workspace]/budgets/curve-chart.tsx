"use client";

import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { DeskLine } from "@/server/budgets/desk";
import { useWorkspace } from "../../../_lib/workspace";

/** Sales a day over spend a day of a campaign, with what holds the truth four times in five, today's point and the ceiling. */
export function CurveChart({ line }: { line: DeskLine }) {
  const { currency } = useWorkspace();
  const data = line.curve.map(({ spend, sales, low, high }) => ({
    spend: toUnits(spend),
    sales: toUnits(sales),
    band: [toUnits(low), toUnits(high)],
  }));
  const tick = { fontSize: 11, fill: "var(--soft)" };
  const most = data.at(-1)!.spend;
  const ceiling = line.ceiling === null ? null : toUnits(line.ceiling);
  return (
    <figure aria-label="Sales a day over spend a day">
      <div className="h-48">
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={data} margin={{ top: 8, right: 12, bottom: 14, left: 0 }}>
            <CartesianGrid stroke="var(--line)" />
            <XAxis
              dataKey="spend"
              type="number"
              domain={[0, most]}
              tick={tick}
              tickLine={false}
              axisLine={{ stroke: "var(--line)" }}
              tickFormatter={(value: number) => value.toFixed(most < 10 ? 1 : 0)}
              label={{ value: "spend a day", position: "insideBottom", offset: -8, fontSize: 11, fill: "var(--soft)" }}
            />
            <YAxis tick={tick} width={46} tickLine={false} axisLine={false} />
            <Tooltip
              contentStyle={{ background: "var(--surface)", border: "1px solid var(--line)", borderRadius: 6 }}
              labelFormatter={(spend) => `Spend ${formatMoney(Number(spend) * 1000, currency)} a day`}
              formatter={(value, name) =>
                Array.isArray(value)
                  ? [value.map((one) => formatMoney(Number(one) * 1000, currency)).join(" to "), name]
                  : [formatMoney(Number(value) * 1000, currency), name]
              }
            />
            <Area
              dataKey="band"
              name="four times in five"
              stroke="none"
              fill="var(--petrol)"
              fillOpacity={0.14}
              isAnimationActive={false}
            />
            <Line
              dataKey="sales"
              name="Sales"
              stroke="var(--petrol)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
            {ceiling !== null && ceiling > 0 && ceiling < most && (
              <ReferenceLine
                x={ceiling}
                stroke="var(--ember)"
                strokeDasharray="4 3"
                label={{ value: "pays up to here", position: "insideTopLeft", fontSize: 11, fill: "var(--ember)" }}
              />
            )}
            <ReferenceDot
              x={toUnits(line.spent)}
              y={toUnits(line.sales)}
              r={5}
              fill="var(--ember)"
              stroke="var(--surface)"
              label={{ value: "now", position: "right", fontSize: 11, fill: "var(--ink)" }}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
    </figure>
  );
}

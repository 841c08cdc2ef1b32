"use client";

import {
  CartesianGrid,
  ReferenceLine,
  ResponsiveContainer,
  Scatter,
  ScatterChart,
  Tooltip,
  XAxis,
  YAxis,
  ZAxis,
} from "recharts";
import { METRICS, type Metric } from "@/core/kit/metrics";
import { formatMoney, formatMoneyRound, toUnits } from "@/core/kit/money";
import type { SliceLine } from "@/server/across/results/slice-lines";
import { useWorkspace } from "../../../_lib/workspace";
import type { Language } from "./asks";

/** Dots a chart can show without becoming a blot; the lines with the most spend. */
const MOST = 400;

/** How many times the goal's cost share the drawing reaches. */
const EDGE = 5;

/** Where a line stands: at its return or cost share; one that sold nothing is placed later. */
function heightOf(metric: Metric, { sums }: SliceLine): number | null {
  return metric.of(sums) ?? (metric.key === "acos" && sums.cost > 0 ? 0 : null);
}

/** Every line as a dot: spend to the right, return (or cost share) up, size by sales, the goal as a line. */
export function ReturnScatter({
  lines,
  language,
  onOpen,
}: {
  lines: SliceLine[];
  language: Language;
  onOpen: (line: SliceLine) => void;
}) {
  const { currency, goal } = useWorkspace();
  const metric = METRICS[language === "return" ? "roas" : "acos"];
  const data = [...lines]
    .filter(({ sums }) => sums.cost > 0)
    .sort((a, b) => b.sums.cost - a.sums.cost)
    .slice(0, MOST)
    .map((line) => ({
      x: toUnits(line.sums.cost),
      y: heightOf(metric, line),
      isEndless: metric.of(line.sums) === null,
      z: toUnits(line.sums.revenue),
      name: line.splitName ? `${line.name} · ${line.splitName}` : line.name,
      line,
    }))
    .filter((dot) => dot.y !== null);
  // Shares far above the goal, and spend that sold nothing and so has none, stand on the top edge: the goal stays in sight.
  const ceiling = language === "return" ? Infinity : EDGE / goal;
  const shown = data.map((dot) => ({ ...dot, height: dot.isEndless ? ceiling : Math.min(ceiling, dot.y!) }));
  const tick = { fontSize: 11, fill: "var(--soft)" };
  const percent = (value: number) => `${Math.round(value * 100)} %`;
  return (
    <figure aria-label={`Spend against ${metric.label}`}>
      <div className="h-44">
        <ResponsiveContainer width="100%" height="100%">
          <ScatterChart margin={{ top: 8, right: 12, bottom: 4, left: 0 }}>
            <CartesianGrid stroke="var(--line)" />
            <XAxis
              type="number"
              dataKey="x"
              name="Spend"
              tick={tick}
              tickLine={false}
              domain={[0, "auto"]}
              tickFormatter={(value: number) => formatMoneyRound(value * 1000, currency)}
            />
            <YAxis
              type="number"
              dataKey="height"
              name={metric.label}
              tick={tick}
              width={48}
              tickLine={false}
              domain={[0, language === "return" ? "auto" : ceiling]}
              tickFormatter={(value: number) => (language === "return" ? String(value) : percent(value))}
            />
            <ZAxis type="number" dataKey="z" range={[24, 320]} />
            <Tooltip
              content={({ payload }) => {
                const dot = payload?.[0]?.payload as (typeof data)[number] | undefined;
                if (!dot) return null;
                return (
                  <div className="rounded border border-line bg-surface px-2 py-1 text-xs shadow">
                    <b>{dot.name}</b>
                    <p className="num">
                      spend {formatMoney(dot.x * 1000, currency)}, sales {formatMoney(dot.z * 1000, currency)},{" "}
                      {dot.isEndless
                        ? "no sales"
                        : `${metric.label} ${language === "return" ? dot.y?.toFixed(2) : percent(dot.y ?? 0)}`}
                    </p>
                  </div>
                );
              }}
            />
            <ReferenceLine y={language === "return" ? goal : 1 / goal} stroke="var(--ember)" strokeDasharray="5 4" />
            <Scatter
              data={shown}
              fill="var(--petrol)"
              fillOpacity={0.55}
              isAnimationActive={false}
              onClick={(dot) => onOpen((dot as unknown as { payload: (typeof data)[number] }).payload.line)}
            />
          </ScatterChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-xs text-soft">
        Each dot is a line of the table: spend to the right, {metric.label} up, sales as its size, the goal dashed.
        {language === "share" && ` On the top edge: above ${percent(ceiling)}, or spend without any sale.`}
        {lines.length > MOST && ` The ${MOST} with the most spend are shown.`}
      </figcaption>
    </figure>
  );
}

import type { Heat } from "@/core/evidence/heat";
import { cx } from "./cx";

const STEP: Record<Heat, number> = { unread: 0, cold: 1, cool: 2, mild: 3, warm: 4, hot: 5 };
const FILL: Record<Heat, string> = {
  unread: "bg-line",
  cold: "bg-cold",
  cool: "bg-cool",
  mild: "bg-mild",
  warm: "bg-warm",
  hot: "bg-hot",
};

/** The background class of a heat step. */
export function heatFill(heat: Heat): string {
  return FILL[heat];
}

/** One to five stacked bars: heat without relying on colour. Its word stands beside it, so it is hidden from readers. */
export function HeatGlyph({ heat }: { heat: Heat }) {
  return (
    <span aria-hidden className="inline-flex h-3 items-end gap-px">
      {[1, 2, 3, 4, 5].map((step) => (
        <span
          key={step}
          className={cx("w-[3px] rounded-[1px]", step <= STEP[heat] ? FILL[heat] : "bg-line")}
          style={{ height: 3 + step * 1.8 }}
        />
      ))}
    </span>
  );
}

/**
 * The glyph with its word. What is warm or hot without a sale of its own says why, since a reader would look for one.
 * @param orders ad orders of the same window; left out where none are told
 * @param isLong whether there is room for the whole sentence
 */
export function HeatMark({ heat, orders, isLong = false }: { heat: Heat; orders?: number; isLong?: boolean }) {
  const isByKind = orders === 0 && (heat === "hot" || heat === "warm");
  const why = `no order yet; ${heat} by its kind`;
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap" title={isByKind ? why : undefined}>
      <HeatGlyph heat={heat} />
      <span className="leading-tight">
        <span className="capitalize">{heat}</span>
        {isByKind && (
          <span className={isLong ? "text-soft" : "block text-xs text-soft"}>
            {isLong ? ` (${why})` : "by its kind"}
          </span>
        )}
      </span>
    </span>
  );
}

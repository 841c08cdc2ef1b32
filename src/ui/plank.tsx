import type { Heat } from "@/core/evidence/heat";
import { cx } from "./cx";
import { heatFill } from "./heat";

export interface PlankBlock {
  id: string;
  title: string;
  /** Mills. */
  cost: number;
  revenue: number;
  heat: Heat;
}

const HEIGHT = 72;
const LEAST = 3;

/**
 * A shelf as a plank with its items standing on it as blocks: width by spend, height by sales (on a root scale, so that one
 * best seller does not flatten the rest), colour by heat.
 * Scales are shared by the planks of a view: `widest` is the spend that fills a plank, `tallest` the sales of the
 * tallest block. What is not drawn one by one is a hatched stretch at the end.
 */
export function Plank({
  blocks,
  more,
  widest,
  tallest,
  label,
  describe,
}: {
  blocks: PlankBlock[];
  more: number;
  widest: number;
  tallest: number;
  label: string;
  describe: (block: PlankBlock) => string;
}) {
  const width = (cost: number) => `${(88 * cost) / Math.max(widest, 1)}%`;
  return (
    <div role="img" aria-label={label}>
      <div className="flex items-end gap-px overflow-hidden" style={{ height: HEIGHT }}>
        {blocks.map((block) => (
          <span
            key={block.id}
            title={describe(block)}
            className={cx(
              "shrink-0 rounded-t-[2px]",
              block.heat === "unread" ? "min-w-1 bg-soft/40" : cx("min-w-px", heatFill(block.heat)),
            )}
            style={{
              width: width(block.cost),
              height: Math.max(LEAST, (HEIGHT - 2) * Math.sqrt(block.revenue / Math.max(tallest, 1))),
            }}
          />
        ))}
        {more > 0 && (
          <span className="hatched h-1.5 min-w-3 flex-1" title={`${more} more, each with little or no spend`} />
        )}
      </div>
      <div className="h-[3px] rounded-sm bg-plank" />
    </div>
  );
}

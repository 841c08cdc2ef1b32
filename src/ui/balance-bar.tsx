import { formatGap, formatShare } from "@/core/kit/format";
import { cx } from "./cx";

/** Spend share left of a spine, sales share right of it. `scale` is the share that fills a side; `isLow` fits it into low rows. */
export function BalanceBar({
  spendShare,
  salesShare,
  scale,
  isLow = false,
}: {
  spendShare: number | null;
  salesShare: number | null;
  scale: number;
  isLow?: boolean;
}) {
  const height = isLow ? "h-2.5" : "h-3.5";
  const text = cx("text-[11px] text-soft", isLow ? "leading-3" : "pt-0.5");
  const width = (share: number | null) => `${Math.min(100, (100 * (share ?? 0)) / Math.max(scale, 0.0001))}%`;
  return (
    <span
      className="inline-grid w-full max-w-44 grid-cols-2 items-center num"
      role="img"
      aria-label={`Spend share ${formatShare(spendShare)}, sales share ${formatShare(salesShare)}`}
    >
      <span className={cx("flex justify-end border-r border-ink pr-0.5", height)}>
        <span className="h-full rounded-l-sm bg-spend" style={{ width: width(spendShare) }} />
      </span>
      <span className={cx("flex justify-start pl-0.5", height)}>
        <span className="h-full rounded-r-sm bg-petrol" style={{ width: width(salesShare) }} />
      </span>
      <span className={cx("pr-1 text-right", text)}>{formatShare(spendShare)}</span>
      <span className={cx("pl-1 text-left", text)}>{formatShare(salesShare)}</span>
    </span>
  );
}

/** A gap in points; one that takes more than it brings says so with a mark and not by colour alone. */
export function Gap({ gap }: { gap: number | null }) {
  const isLoss = gap !== null && gap < -0.005;
  return (
    <span
      className={cx("font-semibold whitespace-nowrap num", isLoss && "text-ember")}
      title="Sales share minus spend share, in points"
    >
      {isLoss && <span aria-hidden>▾ </span>}
      {formatGap(gap)}
    </span>
  );
}

import { cx } from "@/ui/cx";

/** An effect with its ends on a line whose middle is no effect; nothing to see where nothing is known. */
export function Interval({ low, mean, high, most }: { low: number; mean: number; high: number; most: number }) {
  const place = (value: number) => `${50 + 50 * Math.max(-1, Math.min(1, most > 0 ? value / most : 0))}%`;
  const width = (from: number, to: number) =>
    `${50 * (Math.min(1, Math.max(-1, to / most)) - Math.min(1, Math.max(-1, from / most)))}%`;
  const isSure = low > 0 || high < 0;
  return (
    <span className="relative block h-4 w-full" aria-hidden>
      <span className="absolute inset-y-0 left-1/2 w-px bg-line" />
      <span
        className={cx("absolute top-1.5 h-1 rounded", isSure ? (low > 0 ? "bg-petrol" : "bg-ember") : "bg-soft/50")}
        style={{ left: place(low), width: width(low, high) }}
      />
      <span
        className={cx(
          "absolute top-0.5 h-3 w-1 -translate-x-1/2 rounded",
          isSure ? (low > 0 ? "bg-petrol" : "bg-ember") : "bg-soft",
        )}
        style={{ left: place(mean) }}
      />
    </span>
  );
}

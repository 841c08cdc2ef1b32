import { cx } from "./cx";

interface Evidence {
  mean: number;
  low: number;
  high: number;
  goal: number;
}

/** The drawing alone, for a row of a table; its words are its label. */
export function EvidenceMark({
  mean,
  low,
  high,
  goal,
  top: given,
  className,
}: Evidence & { top?: number; className?: string }) {
  // In a table all rows share one scale, so that their goal marks line up.
  const top = given ?? evidenceTop([high], goal);
  /** Where a value stands, in per cent of the bar. */
  const at = (value: number) => Math.min(100, (100 * value) / top);
  return (
    <span
      role="img"
      aria-label={evidenceWords({ mean, low, high, goal })}
      className={cx("relative block h-5", className)}
    >
      <span className="absolute inset-x-0 top-1/2 h-px bg-line" />
      <span
        className="absolute top-1/2 h-2 -translate-y-1/2 rounded bg-petrol/30"
        style={{ left: `${at(low)}%`, width: `${at(high) - at(low)}%` }}
      />
      <span
        className="absolute top-1/2 size-2.5 -translate-x-1/2 -translate-y-1/2 rounded-full bg-petrol"
        style={{ left: `${at(mean)}%` }}
      />
      <span className="absolute inset-y-0 w-0.5 bg-ember" style={{ left: `${at(goal)}%` }} />
    </span>
  );
}

/** The end of a scale for some intervals. One far beyond the others ends at the edge and does not flatten them. */
export function evidenceTop(highs: number[], goal: number): number {
  const sorted = [...highs].sort((a, b) => a - b);
  return Math.max(goal * 2, (sorted[Math.floor(0.9 * (sorted.length - 1))] ?? 0) * 1.05, 0.1);
}

/** How sure an estimate of a return is, in words. */
export function evidenceWords({ mean, low, high, goal }: Evidence): string {
  return `About ${mean.toFixed(2)}, 80 % likely between ${low.toFixed(2)} and ${high.toFixed(2)}; goal ${goal.toFixed(2)}`;
}

/** How sure an estimate is: the interval as a band, the estimate as a dot, the goal as a mark. */
export function EvidenceBar(evidence: Evidence) {
  return (
    <span className="block">
      <EvidenceMark {...evidence} />
      <span className="block text-xs text-soft num">{evidenceWords(evidence)}</span>
    </span>
  );
}

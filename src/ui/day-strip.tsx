import { dayLabel, parseDay } from "@/core/kit/days";
import { formatMoney } from "@/core/kit/money";
import { cx } from "./cx";

/** A day's money, mills; null where it is not reported. */
export interface StripDay {
  day: string;
  cost: number | null;
  revenue: number | null;
}

const told = (amount: number | null, currency: string) =>
  amount === null ? "not reported" : formatMoney(amount, currency);

/** Drawn units: a day is this wide, its bars a little less, and the whole is stretched to its place. */
const DAY = 10;
const BAR = 7;

/**
 * Days along a shelf edge: sales stand on it, spend hangs from it, on one scale of money; the marks are what sales would have to
 * be at the goal. Days whose orders are still coming in stand on a shade.
 */
export function DayStrip({
  days,
  goal,
  currency,
  incompleteDays = 0,
  className,
}: {
  days: StripDay[];
  /** Sales per unit of spend. */
  goal: number;
  currency: string;
  incompleteDays?: number;
  className?: string;
}) {
  const sum = (of: (day: StripDay) => number | null) => days.reduce((all, day) => all + (of(day) ?? 0), 0);
  const above = Math.max(1, ...days.map(({ revenue, cost }) => Math.max(revenue ?? 0, (cost ?? 0) * goal)));
  const below = Math.max(0, ...days.map(({ cost }) => cost ?? 0));
  const width = days.length * DAY;
  const goalMarks = days.map(({ cost }, i) => (cost ? `M${i * DAY} ${-cost * goal}h${DAY}` : "")).join("");
  const first = days[0];
  const last = days.at(-1);
  return (
    <svg
      role="img"
      aria-label={
        first && last
          ? `${dayLabel(parseDay(first.day))} to ${dayLabel(parseDay(last.day))}: spend ${formatMoney(
              sum((day) => day.cost),
              currency,
            )}, sales ${formatMoney(
              sum((day) => day.revenue),
              currency,
            )}`
          : "No days"
      }
      viewBox={`0 ${-above} ${Math.max(1, width)} ${above + below}`}
      preserveAspectRatio="none"
      className={cx("block w-full", className)}
    >
      {incompleteDays > 0 && (
        <rect
          x={width - incompleteDays * DAY}
          y={-above}
          width={incompleteDays * DAY}
          height={above + below}
          fill="var(--line)"
          fillOpacity={0.7}
        />
      )}
      {days.map(({ day, cost, revenue }, i) => (
        <g key={day}>
          <title>{`${dayLabel(parseDay(day))}: spend ${told(cost, currency)}, sales ${told(revenue, currency)}`}</title>
          <rect x={i * DAY} y={-above} width={DAY} height={above + below} fill="transparent" />
          <rect
            x={i * DAY + (DAY - BAR) / 2}
            y={-(revenue ?? 0)}
            width={BAR}
            height={revenue ?? 0}
            fill="var(--petrol)"
          />
          <rect x={i * DAY + (DAY - BAR) / 2} y={0} width={BAR} height={cost ?? 0} fill="var(--spend)" />
        </g>
      ))}
      <path d={`M0 0H${width}`} stroke="var(--ink)" strokeWidth={1} vectorEffect="non-scaling-stroke" />
      <path d={goalMarks} fill="none" stroke="var(--ember)" strokeWidth={1.5} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

import { useRef } from "react";
import { plural } from "@/core/kit/format";
import { placeOf, valueAt, type Histogram } from "@/core/shelves/histogram";
import { cx } from "@/ui/cx";

/** A cut as it stands on the chart. */
export interface CutMark {
  key: string;
  name: string;
  value: number;
  text: string;
  /** Left out for a cut that follows the catalogue and is not dragged. */
  onMove?: (value: number) => void;
}

const HEIGHT = 120;
/** Bars, marks and the line of words below them, in pixels. */
export const CUT_CHART_HEIGHT = HEIGHT + 22 + 16;
const STEP = 0.005;
const BIG_STEP = 0.05;

/** Three figures that count: a cut is dragged to a number one can say. */
function tidy(value: number): number {
  return value === 0 || !Number.isFinite(value) ? 0 : Number(value.toPrecision(3));
}

/** A metric's distribution with the cuts drawn on it: dragged, or moved with the arrow keys. */
export function CutChart({
  bars,
  label,
  marks,
  text,
}: {
  bars: Histogram;
  label: string;
  marks: CutMark[];
  text: (value: number) => string;
}) {
  const box = useRef<HTMLDivElement>(null);
  const most = Math.max(1, ...bars.items);
  const at = (value: number) => Math.min(1, Math.max(0, placeOf(bars, value)));
  const rows = labelRows(marks.map(({ key, value }) => [key, at(value)]));
  return (
    <figure aria-label={`${label} of ${plural(bars.known, "item")}`}>
      <div ref={box} className="relative select-none" style={{ height: HEIGHT + 22 }}>
        <div
          className="absolute inset-x-0 top-5 flex items-end gap-px border-b border-ink/50"
          style={{ height: HEIGHT - 4 }}
        >
          {bars.items.map((count, bar) => (
            <span
              key={bar}
              title={`${text(valueAt(bars, bar / bars.items.length))} to ${text(valueAt(bars, (bar + 1) / bars.items.length))}: ${plural(count, "item")}`}
              className="min-w-0 flex-1 rounded-t-[1px] bg-petrol/45"
              // On a root scale, so that a thin tail is still seen beside a tall start.
              style={{ height: count === 0 ? 0 : Math.max(2, (HEIGHT - 8) * Math.sqrt(count / most)) }}
            />
          ))}
        </div>
        {marks.map((mark) => (
          <CutHandle
            key={mark.key}
            mark={mark}
            place={at(mark.value)}
            row={rows.get(mark.key) ?? 0}
            bars={bars}
            box={box}
          />
        ))}
      </div>
      <figcaption className="flex justify-between text-xs text-soft num">
        <span>{text(bars.from)}</span>
        <span>
          {label}, {plural(bars.known, "item")} {bars.isLog ? "(logarithmic)" : ""} · height on a root scale
        </span>
        <span>{text(bars.to)} and more</span>
      </figcaption>
    </figure>
  );
}

/** Room that a cut's number takes, as a share of the chart. */
const LABEL_ROOM = 0.07;

/** Rows for the numbers of cuts, so that those of near cuts stand below each other. */
function labelRows(places: [key: string, place: number][]): Map<string, number> {
  const ends: number[] = [];
  const rows = new Map<string, number>();
  for (const [key, place] of places.toSorted(([, a], [, b]) => a - b)) {
    const free = ends.findIndex((end) => end <= place);
    const row = free < 0 ? ends.length : free;
    ends[row] = place + LABEL_ROOM;
    rows.set(key, row);
  }
  return rows;
}

function CutHandle({
  mark: { name, value, text, onMove },
  place,
  row,
  bars,
  box,
}: {
  mark: CutMark;
  place: number;
  row: number;
  bars: Histogram;
  box: React.RefObject<HTMLDivElement | null>;
}) {
  const line = (
    <>
      <span
        className={cx(
          "absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2",
          onMove ? "bg-ember" : "border-l border-dashed border-ink bg-transparent",
        )}
      />
      <span
        className={cx(
          "absolute rounded bg-surface px-1 text-[11px] whitespace-nowrap num",
          place > 0.85 ? "right-1" : "left-1/2 ml-1",
          onMove ? "font-semibold text-ember" : "text-soft",
        )}
        style={{ top: row * 14 }}
      >
        {text}
      </span>
    </>
  );
  const style = { left: `calc(${place * 100}% - 7px)`, height: HEIGHT + 16 };
  if (!onMove) {
    return (
      <span className="absolute top-0 w-3.5" style={style} title={`${name}: ${text}`}>
        {line}
      </span>
    );
  }
  const moveTo = (to: number) => onMove(tidy(valueAt(bars, Math.min(1, Math.max(0, to)))));
  return (
    <button
      type="button"
      role="slider"
      aria-label={`Cut of ${name}`}
      aria-valuenow={value}
      aria-valuemin={bars.from}
      aria-valuemax={bars.to}
      aria-valuetext={text}
      className="absolute top-0 w-3.5 cursor-ew-resize touch-none focus-visible:outline-2 focus-visible:outline-petrol"
      style={style}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId) || !box.current) return;
        const { left, width } = box.current.getBoundingClientRect();
        moveTo((event.clientX - left) / width);
      }}
      onKeyDown={(event) => {
        const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
        if (way === undefined) return;
        event.preventDefault();
        moveTo(place + way * (event.shiftKey ? BIG_STEP : STEP));
      }}
    >
      {line}
    </button>
  );
}

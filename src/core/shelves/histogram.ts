/** A metric's distribution as bars of one width; those far below and above the middle 98 % stand in the first and last bar. */
export interface Histogram {
  from: number;
  to: number;
  /** Items a bar. */
  items: number[];
  /** What the items of a bar cost. Mills. */
  cost: number[];
  /** Items that have the metric. */
  known: number;
  /** On a logarithmic scale: for money and counts that reach over several sizes. */
  isLog: boolean;
}

const EDGE = 0.01;
const NEAR = 0.1;
/** From this ratio of the largest to the middle value on, equal steps would leave most of the chart empty. */
const LOG_FROM = 20;

/** @param values NaN for no value; infinite values stand at the end */
export function histogram(values: Float64Array, cost: Float64Array, bars = 60): Histogram {
  const sorted = values.filter(Number.isFinite).sort();
  const known = values.reduce((sum, value) => sum + (Number.isNaN(value) ? 0 : 1), 0);
  const made: Histogram = {
    from: 0,
    to: 1,
    items: new Array<number>(bars).fill(0),
    cost: new Array<number>(bars).fill(0),
    known,
    isLog: false,
  };
  if (known === 0) return made;
  const at = (q: number) => sorted[Math.round(q * (sorted.length - 1))] ?? 0;
  // The ends are those of all values, unless a few lie so far out that they would press the rest together.
  const [inner, middle, outer] = [at(EDGE), at(0.5), at(1 - EDGE)];
  const low = isNear(sorted[0] ?? 0, inner, outer - inner) ? (sorted[0] ?? 0) : inner;
  const high = isNear(sorted.at(-1) ?? 0, outer, outer - inner) ? (sorted.at(-1) ?? 0) : outer;
  made.isLog = low > 0 && middle > 0 && high / middle > LOG_FROM && Number.isFinite(high / low);
  made.from = made.isLog ? low : Math.min(low, low > 0 && low < high / 3 ? 0 : low);
  made.to = high > made.from ? high : made.from + Math.max(1, Math.abs(made.from));
  for (let row = 0; row < values.length; row++) {
    const value = values[row]!;
    if (Number.isNaN(value)) continue;
    // Infinities stand at the ends, whatever the scale.
    const place = value === Infinity ? 1 : value === -Infinity ? 0 : placeOf(made, value);
    const bar = Math.min(bars - 1, Math.max(0, Math.floor(place * bars)));
    made.items[bar] = made.items[bar]! + 1;
    made.cost[bar] = made.cost[bar]! + cost[row]!;
  }
  return made;
}

/** Whether an end lies close enough to the inner 98 % to be shown: within a tenth of their span. */
function isNear(end: number, inner: number, span: number): boolean {
  return Math.abs(end - inner) <= span * NEAR;
}

/** Where a value stands between the ends, 0 to 1; beyond them outside of that. */
export function placeOf({ from, to, isLog }: Pick<Histogram, "from" | "to" | "isLog">, value: number): number {
  if (!isLog) return (value - from) / (to - from);
  return value <= 0 ? 0 : Math.log(value / from) / Math.log(to / from);
}

/** The value at a place between the ends. */
export function valueAt({ from, to, isLog }: Pick<Histogram, "from" | "to" | "isLog">, place: number): number {
  return isLog ? from * Math.pow(to / from, place) : from + (to - from) * place;
}

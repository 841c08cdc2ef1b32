import type { Day } from "../kit/days";
import { lowestBetween } from "../kit/golden-section";
import { normalCdf } from "../kit/stats";
import { clickRate, felt, orderRate } from "./auction";
import { keptValue, orderValue, reportedValue } from "./bought-instead";
import { conditionsOn } from "./demand";
import { HOUR_SHARE } from "./hours";
import { upperHull } from "./hull";
import { MATCH_TYPES } from "../channel/match-types";
import { moodOn } from "./moods";
import { BESIDE, CLOSENESS, FOREIGN, matchFit } from "./running-account";
import { goesWith } from "./rings";
import { SLOTS, slotsOf, type Slot } from "./slot-figures";
import { HALO } from "./store-sales";
import type { Category, Surface, World } from "./world-types";

/*
 * What no account can pass. In every auction one item of ours stands for us, meets the rivals with its own score and pays
 * by it. So whatever an account does in a place and slot is a mixture of single items at single scores, and lies below the
 * concave hull of all of them: of cost and sales a view, over all items (also of other categories, as far as targets can
 * show them) and all scores. For any price λ of money, sales ≤ Σ max (sales − λ × cost) + λ × money over all hulls, hours and
 * days; the λ that makes this least gives the bound, which counts money moved between days, too. Left out, so that the bound
 * is a little loose: one ad an auction over both slots of a query, the least cost of a click, a newcomer's standing.
 */

/** What a bound is of: sales, or sales added × margin − cost. */
export interface Counted {
  /** Share of a row's sales that counts, by catalogue row; sales themselves where left out. */
  margins?: Float64Array;
}

/** A concave curve of worth over cost a view, in average conditions. */
interface Curve {
  /** Worth at no cost: what the outer lines leave at their beginning. */
  free: number;
  /** Falling. */
  slopes: Float64Array;
  /** What the first `n` pieces cost and bring. */
  costs: Float64Array;
  worths: Float64Array;
}

/** Standard scores at which the auction's curve of wins over cost is bounded by its tangent. */
const TANGENTS = Array.from({ length: 27 }, (_, i) => -3.6 + 0.3 * i);

/**
 * The outer line of wins over cost (in units of score) of an auction: corners of its tangents. Winning a little more at
 * score s costs s each, so the slope at a score is 1 ÷ s, and the curve is concave.
 */
function outerLine(mean: number, spread: number): { cost: number; won: number }[] {
  const lift = Math.exp(mean + (spread * spread) / 2);
  const at = TANGENTS.map((z) => ({
    won: normalCdf(z),
    cost: lift * normalCdf(z - spread),
    slope: Math.exp(-mean - spread * z),
  }));
  const corners = [{ cost: 0, won: at[0]!.won - at[0]!.cost * at[0]!.slope }];
  for (let k = 0; k + 1 < at.length; k++) {
    const [a, b] = [at[k]!, at[k + 1]!];
    const cost = (b.won - a.won + a.slope * a.cost - b.slope * b.cost) / (a.slope - b.slope);
    corners.push({ cost, won: a.won + (cost - a.cost) * a.slope });
  }
  const last = at.at(-1)!;
  corners.push({ cost: last.cost + (1 - last.won) / last.slope, won: 1 });
  return corners;
}

/** An item in a place: what it brings and costs for each view won, the cost a unit of score. */
interface Stand {
  worth: number;
  cost: number;
}

/** Those that no other beats at a lower cost, dearest first left out. */
function notBeaten(stands: Stand[]): Stand[] {
  const sorted = stands.filter(({ worth }) => worth > 0).sort((a, b) => a.cost - b.cost || b.worth - a.worth);
  let best = 0;
  return sorted.filter(({ worth }) => {
    if (worth <= best) return false;
    best = worth;
    return true;
  });
}

/** Closer than this no target comes. */
function closestIn(world: World): number {
  return Math.max(1, ...MATCH_TYPES.map((match) => matchFit(world, match)), ...Object.values(CLOSENESS));
}

/** Over so many days items' conversions are taken at their highest, so that places' curves are worked out once for all. */
const MOST_DAYS = 15;

/** A place and slot with its curve. */
interface PlaceCurve {
  category: Category;
  slot: number;
  views: number;
  curve: Curve;
}

/** How an ad does in a slot. */
interface SlotFigures {
  ctr: number;
  cvr: number;
}

/** Bounds of one world, for one way of counting. Places' curves are worked out once for each stretch of days. */
export class UpperBound {
  private readonly stretches = new Map<string, PlaceCurve[]>();
  private readonly closest: number;
  /** Mills that count of an order after a click on each row. */
  private readonly values: Float64Array;

  constructor(
    private readonly world: World,
    private readonly counted: Counted = {},
  ) {
    const { margins } = counted;
    this.closest = closestIn(world);
    this.values = world.truth.price.map((_, row) =>
      margins ? Math.max(0, keptValue(world, row, margins)) : reportedValue(world, row),
    );
  }

  /** The curves of all places over a stretch of days, at each item's highest conversion in it. */
  private curvesOf(from: Day, to: Day): PlaceCurve[] {
    const name = `${from}/${to}`;
    const known = this.stretches.get(name);
    if (known) return known;
    const { truth, categories, slotBuying } = this.world;
    const cvrs = truth.cvr.map((cvr, row) => {
      let most = 0;
      for (let day = from; day <= to; day++) most = Math.max(most, moodOn(this.world, row, day));
      return cvr * most;
    });
    const rows = [...truth.price.keys()].filter((row) => truth.inStock[row] === 1);
    // An item of another category stands everywhere with the same fit, so those that are beaten once are beaten everywhere.
    const standAs =
      ({ fit, lift }: typeof FOREIGN | typeof BESIDE) =>
      (row: number) =>
        this.stand(row, fit * this.closest, cvrs[row]! * lift, 1, { ctr: 1, cvr: 1 });
    const foreign = notBeaten(rows.map(standAs(FOREIGN)));
    const curves = categories.flatMap((category, at) => {
      const beside = categories.flatMap((other, i) => (goesWith(this.world, i, at) ? other.rows : []));
      const inStock = beside.filter((row) => truth.inStock[row] === 1);
      const strangers = inStock.length === 0 ? foreign : notBeaten([...foreign, ...inStock.map(standAs(BESIDE))]);
      return category.surfaces.flatMap((surface) =>
        slotsOf(surface.kind).map((slot): PlaceCurve => {
          const figures = { ...SLOTS[slot]!, cvr: slotBuying[slot]! };
          const curve = this.curveOf(category, surface, figures, cvrs, strangers);
          return { category, slot, views: surface.volume, curve };
        }),
      );
    });
    this.stretches.set(name, curves);
    return curves;
  }

  /** What a row brings and costs a view won; caps of rates hold for it as in the market. */
  private stand(row: number, fit: number, cvr: number, surfaceCtr: number, slot: SlotFigures): Stand {
    const quality = this.world.truth.quality[row]!;
    const close = felt(fit, this.world.nature.closeness);
    const clicks = clickRate(slot.ctr, surfaceCtr, quality, close);
    return {
      worth: clicks * orderRate(cvr * slot.cvr, close) * this.values[row]!,
      cost: clicks / (quality * fit),
    };
  }

  private curveOf(
    { rows }: Category,
    surface: Surface,
    slot: Slot & SlotFigures,
    cvrs: Float64Array,
    foreign: Stand[],
  ): Curve {
    const { truth } = this.world;
    // Of an order that is counted for what it adds, a part would have come anyway.
    const counts = this.counted.margins ? surface.incremental + HALO : 1;
    const own = rows.flatMap((row, i) => {
      if (truth.inStock[row] === 0) return [];
      const cvr = cvrs[row]! * surface.cvr * (surface.lift ? surface.lift[i]! : 1);
      return [this.stand(row, surface.fit[i]! * this.closest, cvr * counts, surface.ctr, slot)];
    });
    // Caps of rates only make strangers worth less than this.
    const strangers = foreign.map(({ worth, cost }) => ({
      worth: worth * slot.ctr * surface.ctr * slot.cvr * surface.cvr * counts,
      cost: cost * slot.ctr * surface.ctr,
    }));
    const held = this.heldWorth(surface);
    const line = outerLine(surface.rivalMean + slot.hardness, surface.rivalSpread);
    const corners = notBeaten([...own, ...strangers]).flatMap((stand) =>
      line.map(({ cost, won }) => ({
        cost: stand.cost * cost * slot.seen,
        revenue: (stand.worth * slot.seen + held) * won,
      })),
    );
    const free = corners.reduce((most, { cost, revenue }) => (cost === 0 ? Math.max(most, revenue) : most), 0);
    const hull = upperHull(corners.map(({ cost, revenue }) => ({ cost, revenue: revenue - free })));
    const costs = new Float64Array(hull.length + 1);
    const worths = new Float64Array(hull.length + 1);
    hull.forEach(({ cost, slope }, i) => {
      costs[i + 1] = costs[i]! + cost;
      worths[i + 1] = worths[i]! + cost * slope;
    });
    return { free, slopes: Float64Array.from(hull, ({ slope }) => slope), costs, worths };
  }

  /** What a view of an own page that we hold keeps from rivals, where added sales are counted. */
  private heldWorth({ kind, ownRow, volume }: Surface): number {
    const { margins } = this.counted;
    if (!margins || kind !== "own-page" || ownRow < 0) return 0;
    const { exposed, organic } = this.world.truth;
    const margin = margins[ownRow]!;
    if (!(margin > 0)) return 0;
    return (exposed[ownRow]! * organic[ownRow]! * orderValue(this.world, ownRow) * margin) / volume;
  }

  /** Σ max (worth − price × cost) over all places and hours of some days. */
  private surplus(from: Day, to: Day, price: number): number {
    const byHour = this.world.buyingByHour;
    let sum = 0;
    for (let day = from; day <= to; day++) {
      const ofCategory = new Map(
        this.world.categories.map((category) => [category, conditionsOn(this.world, category, day)]),
      );
      const begins = from + MOST_DAYS * Math.floor((day - from) / MOST_DAYS);
      for (const { category, slot, views, curve } of this.curvesOf(begins, Math.min(to, begins + MOST_DAYS - 1))) {
        const { demand, rivals, buying } = ofCategory.get(category)!;
        const dearer = price * Math.exp(rivals);
        for (let hour = 0; hour < 24; hour++) {
          const buys = buying * byHour[slot]![hour]!;
          const n = piecesAbove(curve.slopes, dearer / buys);
          sum +=
            views * demand * HOUR_SHARE[hour]! * (buys * (curve.free + curve.worths[n]!) - dearer * curve.costs[n]!);
        }
      }
    }
    return sum;
  }

  /** The most sales that some money could bring over some days, both included. Mills. */
  sales(from: Day, to: Day, money: number): number {
    return leastOver((price) => this.surplus(from, to, price) + price * money);
  }

  /** The most that sales × margin − cost could come to, for any money up to some. Mills; needs margins. */
  contribution(from: Day, to: Day, money: number): number {
    const free = this.surplus(from, to, 1);
    return Math.min(
      free,
      leastOver((price) => this.surplus(from, to, 1 + price) + price * money),
    );
  }
}

/** How many of some falling slopes are at least so steep. */
function piecesAbove(slopes: Float64Array, least: number): number {
  let low = 0;
  let high = slopes.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (slopes[middle]! >= least) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Prices of money between which the least bound is looked for; every one of them gives a bound. */
const CHEAPEST = 0.01;
const DEAREST = 1000;
const STEPS = 22;

/** The least of a convex function of a price, to a few parts in a thousand. */
function leastOver(of: (price: number) => number): number {
  const { least } = lowestBetween((log) => of(Math.exp(log)), Math.log(CHEAPEST), Math.log(DEAREST), STEPS);
  return Math.min(least, of(0));
}

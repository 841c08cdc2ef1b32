import { poissonTail, sureAmong } from "../exclusions/false-alarms";
import { asText, type Columns, type TextColumn } from "../kit/columns";
import { quantile } from "../kit/stats";
import type { Ground } from "../moves/ground";
import { worthsOf } from "../bids/worths";

/** An item that brings clearly fewer orders than clicks on its kind do: its page needs work, not a lower bid alone. */
export interface PageWork {
  row: number;
  clicks: number;
  orders: number;
  /** Orders that as many clicks on its kind bring. */
  usual: number;
  /** How likely so few orders are if it converted as its kind. */
  chance: number;
  /** What it would leave more a day at its kind's rate, mills; NaN where costs are not known. */
  lost: number;
  /** Fields that most of its kind have and it lacks, and those that are much shorter than usual there. */
  missing: string[];
  thin: string[];
}

/** Clicks of a tier of a category from which they say how it converts. */
const LEAST_OF_KIND = 200;
/** Orders of the whole shop's rate laid beside those of a kind. */
const KIND_PATIENCE = 10;
const TIERS = 3;

/**
 * Items with good traffic that convert below their kind (`docs/formulas.md` 6): the other items of their category in the same
 * third of order values, or of the whole category where that has few clicks. Of all that are tested as many are named as keeps
 * false alarms within the house rule.
 * @param content fields that a page is made of, by name
 */
export function pageWork(ground: Ground, content: Columns): PageWork[] {
  const { rows, sums, evidence, rules } = ground;
  const kinds = kindsOf(ground);
  const asked: Omit<PageWork, "missing" | "thin">[] = [];
  const { left, counted } = worthsOf(ground);
  for (let row = 0; row < rows; row++) {
    const clicks = sums.clicks[row]!;
    if (clicks < rules.pageClicks || !ground.isBuyable(row)) continue;
    const usual = kinds.rateOf(row) * clicks;
    if (!(usual > 0)) continue;
    const orders = sums.orders[row]!;
    const share = ground.margin[row]! * counted;
    const lost = ((usual - orders) / ground.days) * evidence.orderValue[row]! * share;
    asked.push({
      row,
      clicks,
      orders,
      usual,
      chance: poissonTail(orders, usual),
      lost: Number.isNaN(left[row]!) ? NaN : lost,
    });
  }
  const sure = sureAmong(
    asked.map(({ chance }) => chance),
    rules.falseAlarms / 100,
  );
  const named = asked.filter(({ usual, orders }, i) => sure[i] && orders < usual);
  const gaps = new Gaps(ground, content);
  return named
    .map((one) => ({ ...one, ...gaps.of(one.row) }))
    .sort((a, b) => (b.lost || 0) - (a.lost || 0) || b.usual - b.orders - (a.usual - a.orders));
}

interface Sum {
  clicks: number;
  orders: number;
}

/** Orders a click of the others of a row's kind. */
function kindsOf(ground: Ground): { rateOf(row: number): number } {
  const { rows, sums, evidence, categoryOf } = ground;
  const values = new Map<number, number[]>();
  for (let row = 0; row < rows; row++) {
    const value = evidence.orderValue[row]!;
    if (!Number.isFinite(value)) continue;
    const list = values.get(categoryOf[row]!);
    if (list) list.push(value);
    else values.set(categoryOf[row]!, [value]);
  }
  const cuts = new Map(
    [...values].map(([category, list]) => {
      list.sort((a, b) => a - b);
      return [
        category,
        Array.from({ length: TIERS - 1 }, (_, i) => list[Math.floor(((i + 1) * list.length) / TIERS)]!),
      ];
    }),
  );
  const tierOf = (row: number) =>
    (cuts.get(categoryOf[row]!) ?? []).filter((cut) => evidence.orderValue[row]! >= cut).length;
  const [tiers, categories, all] = [new Map<string, Sum>(), new Map<number, Sum>(), { clicks: 0, orders: 0 }];
  const add = (sum: Sum, row: number) => {
    sum.clicks += sums.clicks[row]!;
    sum.orders += sums.orders[row]!;
  };
  for (let row = 0; row < rows; row++) {
    if (sums.clicks[row] === 0) continue;
    const name = `${categoryOf[row]} ${tierOf(row)}`;
    if (!tiers.has(name)) tiers.set(name, { clicks: 0, orders: 0 });
    if (!categories.has(categoryOf[row]!)) categories.set(categoryOf[row]!, { clicks: 0, orders: 0 });
    add(tiers.get(name)!, row);
    add(categories.get(categoryOf[row]!)!, row);
    add(all, row);
  }
  const shop = all.clicks > 0 ? all.orders / all.clicks : 0;
  return {
    rateOf: (row) => {
      const own = { clicks: sums.clicks[row]!, orders: sums.orders[row]! };
      const without = (sum: Sum) => ({ clicks: sum.clicks - own.clicks, orders: sum.orders - own.orders });
      const tier = without(tiers.get(`${categoryOf[row]} ${tierOf(row)}`)!);
      const kind = tier.clicks >= LEAST_OF_KIND ? tier : without(categories.get(categoryOf[row]!)!);
      return shop > 0 ? (kind.orders + KIND_PATIENCE) / (kind.clicks + KIND_PATIENCE / shop) : 0;
    },
  };
}

/** A field that fewer of a kind have is none that a page there needs. */
const MOST_HAVE = 0.6;
/** A text below this share of the usual length of its kind is thin. */
const THIN = 0.5;
/** Items of a kind from which it says what is usual there. */
const LEAST_ITEMS = 5;

/** What a row's page lacks beside its category. */
class Gaps {
  private readonly columns: [string, TextColumn][];
  private readonly rowsOf = new Map<number, number[]>();
  private readonly usual = new Map<string, { have: number; length: number }>();

  constructor(
    private readonly ground: Ground,
    content: Columns,
  ) {
    this.columns = Object.entries(content.columns).map(([name, column]) => [name, asText(column)]);
    for (let row = 0; row < ground.rows; row++) {
      const list = this.rowsOf.get(ground.categoryOf[row]!);
      if (list) list.push(row);
      else this.rowsOf.set(ground.categoryOf[row]!, [row]);
    }
  }

  of(row: number): Pick<PageWork, "missing" | "thin"> {
    const category = this.ground.categoryOf[row]!;
    const [missing, thin] = [[] as string[], [] as string[]];
    if (this.rowsOf.get(category)!.length < LEAST_ITEMS) return { missing, thin };
    for (const [name, column] of this.columns) {
      const { have, length } = this.usualOf(category, name, column);
      if (have < MOST_HAVE) continue;
      const own = textAt(column, row).length;
      if (own === 0) missing.push(name);
      else if (own < THIN * length) thin.push(name);
    }
    return { missing, thin };
  }

  private usualOf(category: number, name: string, column: TextColumn): { have: number; length: number } {
    const key = `${category} ${name}`;
    let found = this.usual.get(key);
    if (!found) {
      const rows = this.rowsOf.get(category)!;
      const lengths = rows.map((row) => textAt(column, row).length).filter((length) => length > 0);
      found = { have: lengths.length / rows.length, length: quantile(lengths, 0.5) ?? 0 };
      this.usual.set(key, found);
    }
    return found;
  }
}

const textAt = ({ values, codes }: TextColumn, row: number) => (values[codes[row]!] ?? "").trim();

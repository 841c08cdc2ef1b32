// What a market's reports of the last 90 days say, as proposers ask for it.
import type { Account } from "@/core/account/account";
import { firstHomes, isHomeKind } from "@/core/account/homes";
import { Walker } from "@/core/account/walk";
import { paidPrices } from "@/core/catalogue/margins";
import { estimateLag, seenShare } from "@/core/evidence/lag";
import { categoryLadder, itemEvidence } from "@/core/evidence/item-evidence";
import { asText, type Columns } from "@/core/kit/columns";
import type { DayResult } from "@/core/market/day-types";
import type { World } from "@/core/market/world-types";
import type { Ground, LineCounts } from "@/core/moves/ground";
import { PRESET_RULES } from "@/core/moves/house-rules";
import { addSeen, emptyRowSums } from "./seen-sums";

/** Days of reports that are looked back on, and days that say how money lasts. */
const WINDOW = 180;
const LAST_DAYS = 7;
const RECENT_DAYS = 21;

/** Reports of a market, day by day. */
export class Reports {
  private readonly days: { day: number; result: DayResult }[] = [];
  private readonly walker: Walker;

  constructor(
    private readonly world: World,
    private readonly shop: Columns,
    private readonly margin: Float64Array,
  ) {
    this.walker = new Walker(shop);
  }

  see(day: number, result: DayResult): void {
    this.days.push({ day, result });
  }

  ground(account: Account, today: number): Ground {
    const { world, shop, margin } = this;
    const from = today - WINDOW;
    const days = this.days.filter(({ day }) => day >= from);
    const lag = estimateLag(
      days.flatMap(({ day, result: { facts, arrived } }) => [
        { day, age: 0, orders: facts.reduce((sum, { orders }) => sum + orders, 0) },
        ...arrived.map((order) => ({ day: order.day, age: day - order.day, orders: order.orders })),
      ]),
      (day) => (day < from ? -1 : today - 1 - day),
    );
    const seenBy = (day: number) => seenShare(lag, today - 1 - day);
    const sums = emptyRowSums(shop.length);
    const seenClicks = new Float64Array(shop.length);
    const recent = { orders: new Float64Array(shop.length), seenClicks: new Float64Array(shop.length) };
    const isRecent = (day: number) => day >= today - RECENT_DAYS;
    const [places, slots, hours] = [
      new Lines<"campaign" | "adGroup" | "target" | "place">(),
      new Lines<"campaign" | "adGroup" | "slot">(),
      new Lines<"campaign" | "hour">(),
    ];
    for (const { day, result } of days) {
      addSeen(sums, { ...result, arrived: result.arrived.filter((order) => order.day >= from) });
      const share = seenBy(day);
      for (const fact of result.facts) {
        const { campaign, adGroup, target, slot } = fact;
        seenClicks[fact.itemNo - 1]! += share * fact.clicks;
        if (isRecent(day)) {
          recent.seenClicks[fact.itemNo - 1]! += share * fact.clicks;
          recent.orders[fact.itemNo - 1]! += fact.orders;
        }
        const counts = { ...fact, seenClicks: share * fact.clicks };
        places.add({ campaign, adGroup, target, place: fact.term }, counts);
        slots.add({ campaign, adGroup, slot }, counts);
      }
      for (const fact of result.hours)
        hours.add({ campaign: fact.campaign, hour: fact.hour }, { ...fact, seenClicks: share * fact.clicks });
      for (const order of result.arrived) {
        if (order.day < from) continue;
        const { campaign, adGroup, target, slot, hour } = order;
        if (isRecent(order.day)) recent.orders[order.itemNo - 1]! += order.orders;
        const counts = {
          impressions: 0,
          clicks: 0,
          cost: 0,
          seenClicks: 0,
          orders: order.orders,
          revenue: order.revenue,
        };
        places.add({ campaign, adGroup, target, place: order.term }, counts);
        slots.add({ campaign, adGroup, slot }, counts);
        hours.add({ campaign, hour }, counts);
      }
    }
    const text = (name: string) => asText(shop.columns[name]!);
    const [family, category, availability, id] = [text("family"), text("category"), text("availability"), text("id")];
    const isOut = (row: number) => availability.values[availability.codes[row]!] === "out of stock";
    const evidence = itemEvidence(sums, {
      ...{ family, category, paid: paidPrices(shop), newness: new Float64Array(shop.length), seenClicks },
      soldOut: Uint8Array.from({ length: shop.length }, (_, row) => (isOut(row) ? 1 : 0)),
    });
    const all = this.walker.walk(account);
    const homes = all.filter(({ campaign }) => isHomeKind(campaign.kind));
    const ids = new Set(id.values);
    const brands = new Set(text("brand").values.map((name) => name.toLowerCase()));
    const listings = new Set(world.surfaces.flatMap(({ kind, label }) => (kind.endsWith("-page") ? [label] : [])));
    return {
      ...{ account, homes, aimed: all.filter(({ campaign }) => !isHomeKind(campaign.kind)) },
      ...{
        first: firstHomes(homes, shop.length),
        rows: shop.length,
        days: days.length,
        sums,
        evidence,
        recent,
        margin,
      },
      idOf: (row) => id.values[id.codes[row]!]!,
      titleOf: (row) => id.values[id.codes[row]!]!,
      categoryOf: categoryLadder(category, shop.length)[0]!,
      goalOf: (row) => ({ goal: 1 / margin[row]!, from: "break-even" }),
      isBuyable: (row) => !isOut(row),
      places: places.all() as Ground["places"],
      slots: slots.all() as unknown as Ground["slots"],
      hours: hours.all() as unknown as Ground["hours"],
      purses: days
        .filter(({ day }) => day >= today - LAST_DAYS)
        .flatMap(({ result }) =>
          result.campaigns.map(({ campaign, budget, cost, dryAt }) => ({ campaign, budget, cost, dryAt })),
        ),
      isListing: (place) => listings.has(place),
      isOwnPage: (place) => ids.has(place),
      isOwnBrand: (place) => place.split(" ").some((word) => brands.has(word)),
      ...{
        rules: PRESET_RULES,
        currency: "EUR",
        settling: new Set<string>(),
        pushes: [],
      },
    };
  }
}

/** Sums of counts by a few keys. */
class Lines<K extends string> {
  private readonly found = new Map<string, Record<K, string | number> & LineCounts>();

  add(keys: Record<K, string | number>, counts: LineCounts): void {
    const name = Object.values(keys).join("\u0000");
    const line = this.found.get(name);
    if (!line) {
      const { impressions, clicks, cost, orders, revenue, seenClicks } = counts;
      this.found.set(name, { ...keys, impressions, clicks, cost, orders, revenue, seenClicks });
      return;
    }
    const sums: LineCounts = line;
    for (const key of ["impressions", "clicks", "cost", "orders", "revenue", "seenClicks"] as const)
      sums[key] += counts[key];
  }

  all() {
    return [...this.found.values()];
  }
}

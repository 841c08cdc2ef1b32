import { worthsOf, type PlaceWorth } from "../bids/worths";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import { poissonTail, sureAmong } from "./false-alarms";
import type { Ground } from "../moves/ground";
import type { Move } from "../moves/move";

/** A place that was tested for waste. */
interface WasteTest {
  place: PlaceWorth;
  /** The chance of so few orders if it paid, and whether it is small enough among all that were tested. */
  chance: number;
  isSure: boolean;
}

const tested = new WeakMap<Ground, WasteTest[]>();

/** Tests every place that is no page of one's own, is not kept out everywhere and whose kind is known; once for a ground. */
export function wasteChances(ground: Ground): WasteTest[] {
  let found = tested.get(ground);
  if (!found) tested.set(ground, (found = testPlaces(ground)));
  return found;
}

function testPlaces(ground: Ground): WasteTest[] {
  const worths = worthsOf(ground);
  const keptOut = new Set(
    ground.account.all("negative").flatMap(({ scope, value }) => (scope === null ? [value] : [])),
  );
  const asked = [...worths.places.values()].filter(
    // One's own pages are kept from others by ads there, which their own results don't tell.
    ({ place, seenClicks }) =>
      seenClicks >= 1 && !keptOut.has(place) && ground.isListing(place) !== null && !ground.isOwnPage(place),
  );
  const chances = asked.map((place) => {
    const { paying } = usual(ground, place);
    return paying > 0 ? poissonTail(place.orders, paying) : 1;
  });
  const sure = sureAmong(chances, ground.rules.falseAlarms / 100);
  return asked.map((place, i) => ({ place, chance: chances[i]!, isSure: sure[i]! }));
}

/**
 * Terms and pages that only cost: with the clicks they had, so few orders would be a rare accident if they paid at all
 * (`docs/formulas.md` 7). Of all that were looked at as many are proposed as keeps false alarms within the house rule.
 */
export function wastedPlaces(ground: Ground): Move[] {
  return wasteChances(ground).flatMap(({ place, chance: told, isSure }): Move[] => {
    if (!isSure || ground.isDismissed?.(place.place)) return [];
    const isListing = ground.isListing(place.place) as boolean;
    const { value } = usual(ground, place);
    const lost = (place.cost - place.orders * value) / ground.days;
    if (lost <= 0) return [];
    const what = isListing ? ("listing" as const) : ("term" as const);
    const chance = told < 0.001 ? "under 1 in 1,000" : `${(100 * told).toFixed(1)} %`;
    return [
      {
        ...{ key: `waste/${place.place}`, proposer: "waste", about: place.place, campaign: null },
        what: "Keep out, everywhere",
        why: `${formatMoney(place.cost, ground.currency)} for ${plural(place.orders, "order")}; if it paid, so few would have a chance of ${chance}`,
        acts: [
          {
            action: "keep-out",
            scope: null,
            values: [{ what, match: "exact", value: place.place }],
            reason: "wasteful",
            reviewOn: null,
          },
        ],
        ...{ amount: null, limitedBy: null },
        stands: { clicks: place.clicks, orders: place.orders },
        expected: {
          ...{
            clicks: -place.clicks / ground.days,
            cost: -place.cost / ground.days,
            revenue: -place.revenue / ground.days,
          },
          contribution: {
            mean: lost,
            low: lost - (1.64 * Math.sqrt(place.orders + 1) * value) / ground.days,
            high: place.cost / ground.days,
          },
        },
        rows: [],
        touches: [`place/${place.place}`],
      },
    ];
  });
}

/** What an order there leaves, mills, and how many orders its clicks had to bring to pay. */
function usual(ground: Ground, { clicksOf, cost, seenClicks, clicks }: PlaceWorth): { value: number; paying: number } {
  let [value, weights] = [0, 0];
  for (const [row, share] of clicksOf) {
    const margin = ground.margin[row]!;
    const left =
      ground.evidence.orderValue[row]! * (Number.isNaN(margin) ? 1 / ground.goalOf(row).goal : Math.max(0, margin));
    value += share * left;
    weights += share;
  }
  const each = weights > 0 ? value / weights : 0;
  return { value: each, paying: each > 0 ? (cost * (seenClicks / clicks)) / each : 0 };
}

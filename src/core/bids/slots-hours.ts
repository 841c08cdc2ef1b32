import { SLOT_KEYS, SLOT_LABEL } from "../kit/slots";
import type { Campaign } from "../account/records/campaign";
import type { Ground } from "../moves/ground";
import { between, NOTHING_EXPECTED, sumExpected, type Expected, type Move, type MoveAct } from "../moves/move";
import { worthsOf } from "./worths";

/** Factors are told and sent in steps of so much: finer ones would say more than is known. */
const STEP = 0.05;
/** A factor closer to the present one than this stays. */
const LEAST_MOVE = 0.1;

const rounded = (factor: number) => Math.round(factor / STEP) * STEP;

/** The campaigns whose bids are as they were given, so that factors on them mean what they say. */
function fixedCampaigns({ account }: Ground): Campaign[] {
  return account.all("campaign").filter(({ status, bidding }) => status === "on" && bidding !== "return");
}

/** Factors for the slots, by what clicks there are worth against those of the same items elsewhere; one move for all, since they say how slots stand to each other. */
export function slotFactors(ground: Ground): Move[] {
  const campaigns = fixedCampaigns(ground);
  if (ground.slots.length === 0 || campaigns.length === 0) return [];
  const { slots } = worthsOf(ground);
  const parts = SLOT_KEYS.flatMap((slot, at) => {
    const wanted = rounded(slots[at]!);
    const moved = campaigns.filter((campaign) => Math.abs((campaign.slots?.[slot] ?? 1) - wanted) >= LEAST_MOVE);
    if (moved.length === 0) return [];
    const lines = ground.slots.filter((line) => line.slot === at);
    const expected = expectedOfFactor(ground, lines, moved[0]!.slots?.[slot] ?? 1, wanted, slots[at]!);
    return [{ slot, wanted, keys: moved.map(({ key }) => key), expected, worth: slots[at]! }];
  });
  if (parts.length === 0) return [];
  return [
    {
      ...{ key: "slots", proposer: "slots", about: "Slots", campaign: null },
      what: parts.map(({ slot, wanted }) => `${SLOT_LABEL[slot]} × ${wanted.toFixed(2)}`).join(", "),
      why: `Of the orders that the same items bring in all, clicks bring ${parts.map(({ slot, worth }) => `${Math.round(100 * worth)} % in ${SLOT_LABEL[slot].toLowerCase()}`).join(", ")}`,
      acts: parts.map(({ slot, wanted, keys }): MoveAct => ({ action: "slot-factor", keys, slot, factor: wanted })),
      ...{
        amount: null,
        limitedBy: parts.some(({ wanted }) => wanted >= ground.rules.mostFactor) ? "mostFactor" : null,
      },
      stands: countsOf(ground.slots),
      expected: sumExpected(parts.map(({ expected }) => expected)),
      rows: [],
      touches: parts.flatMap(({ slot, keys }) => keys.map((key) => `${key}/slot/${slot}`)),
    },
  ];
}

/** Factors for the hours of the day, all of a campaign's together, since they are one course; one move for all campaigns. */
export function hourFactors(ground: Ground): Move[] {
  const campaigns = fixedCampaigns(ground);
  if (ground.hours.length === 0 || campaigns.length === 0) return [];
  const { hours } = worthsOf(ground);
  const wanted = hours.map(rounded);
  const isFar = ({ hours: now }: Campaign) =>
    wanted.some((factor, hour) => Math.abs((now?.[hour] ?? 1) - factor) >= 2 * LEAST_MOVE);
  const moved = campaigns.filter(isFar).map(({ key }) => key);
  if (moved.length === 0) return [];
  const byFactor = new Map<number, number[]>();
  wanted.forEach((factor, hour) => byFactor.set(factor, [...(byFactor.get(factor) ?? []), hour]));
  const acts = [...byFactor].map(([factor, of]): MoveAct => ({
    action: "hour-factor",
    keys: moved,
    hours: of,
    factor,
  }));
  const best = hours.indexOf(Math.max(...hours));
  const worst = hours.indexOf(Math.min(...hours));
  const present = campaigns[0]!.hours;
  const parts = wanted.map((factor, hour) => {
    const lines = ground.hours.filter((line) => line.hour === hour);
    return expectedOfFactor(ground, lines, present?.[hour] ?? 1, factor, hours[hour]!);
  });
  return [
    {
      ...{ key: "hours", proposer: "hours", about: "Hours of the day", campaign: null },
      what: `Bids × ${Math.min(...wanted).toFixed(2)} to ${Math.max(...wanted).toFixed(2)} by the hour, in ${moved.length} campaigns`,
      why: `A click at ${clock(best)} brings ${Math.round(100 * hours[best]!)} % of the usual orders, at ${clock(worst)} ${Math.round(100 * hours[worst]!)} %`,
      ...{ acts, amount: null, limitedBy: null },
      stands: countsOf(ground.hours),
      expected: sumExpected(parts),
      rows: [],
      touches: moved.map((key) => `${key}/hours`),
    },
  ];
}

const clock = (hour: number) => `${String(hour).padStart(2, "0")}:00`;

function countsOf(lines: readonly { clicks: number; orders: number }[]) {
  return lines.reduce((sum, line) => ({ clicks: sum.clicks + line.clicks, orders: sum.orders + line.orders }), {
    clicks: 0,
    orders: 0,
  });
}

/** Clicks follow bids about so: a bid of half as much again brings a third more clicks at a sixth more a click. */
const CLICKS_BY_BID = 0.7;
const COST_BY_BID = 0.4;

/** What another factor on bids is expected to change where clicks are worth so much of the usual. */
function expectedOfFactor(
  ground: Ground,
  lines: readonly { clicks: number; cost: number; orders: number; revenue: number }[],
  before: number,
  after: number,
  worth: number,
): Expected {
  const sum = (key: "clicks" | "cost" | "revenue") => lines.reduce((all, line) => all + line[key], 0) / ground.days;
  const clicks = sum("clicks");
  if (clicks <= 0) return NOTHING_EXPECTED;
  const ratio = before > 0 ? after / before : 1;
  const more = clicks * (ratio ** CLICKS_BY_BID - 1);
  const cost = sum("cost") * (ratio ** (CLICKS_BY_BID + COST_BY_BID) - 1);
  const usual = usualOf(ground);
  const { orders, revenue } = usual;
  const margin = usual.margin * worthsOf(ground).counted;
  const value = worth * orders * revenue;
  const mean = more * value * margin - cost;
  return {
    ...{ clicks: more, cost, revenue: more * value },
    contribution: Number.isNaN(margin) ? null : between(mean, (0.5 * more * value * margin) ** 2),
  };
}

/** Orders a click, sales an order and the margin of all that was clicked. */
function usualOf({ sums, margin, rows }: Ground): { orders: number; revenue: number; margin: number } {
  let [clicks, orders, revenue, left, known] = [0, 0, 0, 0, 0];
  for (let row = 0; row < rows; row++) {
    clicks += sums.clicks[row]!;
    orders += sums.orders[row]!;
    revenue += sums.revenue[row]!;
    if (Number.isNaN(margin[row]!)) continue;
    left += sums.revenue[row]! * margin[row]!;
    known += sums.revenue[row]!;
  }
  return {
    orders: clicks > 0 ? orders / clicks : 0,
    revenue: orders > 0 ? revenue / orders : 0,
    margin: known > 0 ? left / known : NaN,
  };
}

import { exclusionKey } from "../account/records/exclusion";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import type { Ground } from "../moves/ground";
import type { Expected, Move } from "../moves/move";

/** 80 % of a normal distribution lie within this many deviations. */
const WITHIN = 1.2816;

const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;

/**
 * Items whose costs leave nothing of a sale: whatever a click costs is lost, and each sale loses more. They are kept out until
 * their margin is above nothing again, which {@link letInAgain} tells.
 */
export function withoutMargin(ground: Ground): Move[] {
  const { sums, margin, days, evidence, currency } = ground;
  const moves: Move[] = [];
  for (let row = 0; row < ground.rows; row++) {
    // What is not known is no reason: NaN is neither above nor below.
    if (!(margin[row]! <= 0) || ground.first[row]! < 0 || !ground.isBuyable(row)) continue;
    const [clicks, cost, orders] = [sums.clicks[row]!, sums.cost[row]!, sums.orders[row]!];
    if (clicks === 0) continue;
    const each = -margin[row]! * evidence.orderValue[row]!;
    const id = ground.idOf(row);
    const home = ground.homes[ground.first[row]!]!;
    const lost = (cost + orders * each) / days;
    moves.push({
      ...{ key: `no-margin/${id}`, proposer: "no-margin", about: ground.titleOf(row), campaign: home.campaign.key },
      what: "Exclude, everywhere: no margin",
      why: `Costs leave ${percent(margin[row]!)} of a sale; ${formatMoney(cost, currency)} for ${plural(orders, "order")}`,
      acts: [{ action: "exclude", items: [id], reason: "no margin", reviewOn: null, campaign: null }],
      ...{ amount: null, limitedBy: null, stands: { clicks, orders } },
      expected: {
        ...{ clicks: -clicks / days, cost: -cost / days, revenue: -sums.revenue[row]! / days },
        contribution: {
          mean: lost,
          low: cost / days,
          high: lost + (WITHIN * Math.sqrt(orders + 1) * each) / days,
        },
      },
      ...{ rows: [row], touches: [exclusionKey(id, null)] },
    });
  }
  return moves;
}

/** Items that were kept out since they could not be bought, or left nothing, and now can be and do. */
export function letInAgain(ground: Ground): Move[] {
  const rowOf = new Map(Array.from({ length: ground.rows }, (_, row) => [ground.idOf(row), row]));
  return ground.account.all("exclusion").flatMap(({ key, item, campaign, reason }): Move[] => {
    const row = rowOf.get(item);
    if (row === undefined || !ground.isBuyable(row)) return [];
    const margin = ground.margin[row]!;
    const why =
      reason === "out of stock"
        ? "It was out of stock and can be bought again"
        : reason === "no margin" && margin > 0
          ? `Nothing was left of a sale; now it is ${percent(margin)}`
          : null;
    // Stock alone is no reason to sell at a loss.
    if (why === null || margin <= 0) return [];
    return [
      {
        ...{ key: `let-in/${key}`, proposer: "let-in", about: ground.titleOf(row), campaign },
        ...{ what: "Let in again", why },
        acts: [{ action: "include", items: [item], campaign }],
        ...{ amount: null, limitedBy: null },
        stands: { clicks: ground.sums.clicks[row]!, orders: ground.sums.orders[row]! },
        ...{ expected: expectedAgain(ground, row), rows: [row], touches: [key] },
      },
    ];
  });
}

/** What an item brought a day within the window, by evidence; where it had no clicks nothing is expected that is known. */
function expectedAgain({ sums, days, margin, evidence }: Ground, row: number): Expected {
  const clicks = sums.clicks[row]! / days;
  const cost = sums.cost[row]! / days;
  const revenue = clicks * evidence.orderRate[row]! * evidence.orderValue[row]!;
  if (clicks === 0 || Number.isNaN(margin[row]!)) return { clicks, cost, revenue, contribution: null };
  const left = revenue * margin[row]!;
  const spread = WITHIN * left * Math.sqrt(evidence.variance[row]!);
  return {
    clicks,
    cost,
    revenue,
    contribution: { mean: left - cost, low: left - spread - cost, high: left + spread - cost },
  };
}

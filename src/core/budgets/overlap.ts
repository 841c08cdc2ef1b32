import { firstHomes } from "../account/homes";
import type { ServingGroup } from "../account/walk";
import type { Campaign } from "../account/records/campaign";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import type { Ground } from "../moves/ground";
import type { Move } from "../moves/move";
import { expectedOfBid } from "../bids/expected";
import { worthsOf } from "../bids/worths";

/** Homes of one campaign: its rows, and the bid of each. */
interface Reach {
  campaign: Campaign;
  bids: Map<number, number>;
}

/**
 * Campaigns whose items another one holds too: both bid for the same places, and who serves first is settled by serve order,
 * not by what a click is worth. The one that holds most stays; each other that it covers is proposed to pause.
 */
export function overlaps(ground: Ground): Move[] {
  const reaches = reachesOf(ground.homes);
  const widest = reaches.reduce<Reach | null>(
    (best, one) => (!best || one.bids.size > best.bids.size ? one : best),
    null,
  );
  if (!widest) return [];
  const worths = worthsOf(ground);
  return reaches.flatMap((reach): Move[] => {
    const { campaign, bids } = reach;
    if (reach === widest || campaign.purpose === "defend" || campaign.purpose === "rank") return [];
    const rows = [...bids.keys()];
    const covered = rows.filter((row) => widest.bids.has(row));
    if (rows.length === 0 || covered.length < (ground.rules.covered / 100) * rows.length) return [];
    const [clicks, orders] = [sumOf(ground.sums.clicks, covered), sumOf(ground.sums.orders, covered)];
    const share = `${Math.round((100 * covered.length) / rows.length)} %`;
    const expected = covered.map((row) =>
      expectedOfBid(ground, worths, campaign.key, [row], bids.get(row)!, widest.bids.get(row)!),
    );
    const sum = (key: "clicks" | "cost" | "revenue") => expected.reduce((all, one) => all + one[key], 0);
    return [
      {
        ...{ key: `overlap/${campaign.key}`, proposer: "overlap", about: campaign.name, campaign: campaign.key },
        what: `Pause; “${widest.campaign.name}” goes on for its items, and gets its ${formatMoney(campaign.dailyBudget, ground.currency)} a day`,
        why: `${share} of its ${plural(rows.length, "item")} are in “${widest.campaign.name}” too, so the two bid for the same places`,
        acts: [
          {
            action: "status",
            keys: [campaign.key],
            status: "paused",
            pausedFor: `its items are in ${widest.campaign.name}`.slice(0, 200),
          },
          { action: "budget", keys: [widest.campaign.key], op: { how: "add", mills: campaign.dailyBudget } },
        ],
        ...{ amount: null, limitedBy: null, stands: { clicks, orders } },
        // What the other one brings there instead is as unsure as its bid's place in the auctions; only the means are told.
        expected: { clicks: sum("clicks"), cost: sum("cost"), revenue: sum("revenue"), contribution: widely(expected) },
        rows: covered,
        touches: [campaign.key],
      },
    ];
  });
}

/**
 * What the other campaign takes over costs more than its bids let expect: so much of what was expected came in worlds whose
 * truth is known (`docs/decisions-bench.md`).
 */
export const CAME = 0.6;

/** How it turns out is as unsure as it is large. */
function widely(parts: readonly { contribution: { mean: number } | null }[]) {
  let mean = 0;
  let size = 0;
  for (const { contribution } of parts) {
    if (!contribution) return null;
    mean += CAME * contribution.mean;
    size += CAME * Math.abs(contribution.mean);
  }
  return { mean, low: mean - size, high: mean + size };
}

/**
 * The ground as it is once campaigns are paused: what other proposers say of their items is said of who serves them then, and
 * counts beside what pausing brings, not once more.
 */
export function withoutCampaigns(ground: Ground, paused: ReadonlySet<string>): Ground {
  if (paused.size === 0) return ground;
  const homes = ground.homes.filter(({ campaign }) => !paused.has(campaign.key));
  const before = ground.homes;
  return {
    ...ground,
    homes,
    first: firstHomes([...homes], ground.rows),
    seenBid: (row) => before[ground.first[row]!]?.bid ?? 0,
  };
}

const sumOf = (values: ArrayLike<number>, rows: readonly number[]) => rows.reduce((sum, row) => sum + values[row]!, 0);

function reachesOf(homes: readonly ServingGroup[]): Reach[] {
  const reaches = new Map<string, Reach>();
  for (const { campaign, bid, rows } of homes) {
    const reach = reaches.get(campaign.key) ?? { campaign, bids: new Map<number, number>() };
    reaches.set(campaign.key, reach);
    for (const row of rows) reach.bids.set(row, bid);
  }
  return [...reaches.values()];
}

import { expectedOfBid } from "./expected";
import { inWords } from "./item-bids";
import { worthsOf } from "./worths";
import { recordName } from "../account/names";
import type { Ground } from "../moves/ground";
import { NOTHING_EXPECTED, type Move } from "../moves/move";

/** Bids whose push is over go back to what they were, unless somebody changed them since. */
export function pushEnds(ground: Ground): Move[] {
  const ended = ground.pushes;
  if (ended.length === 0) return [];
  const worths = worthsOf(ground);
  const rowOf = new Map<string, number>();
  for (let row = 0; row < ground.rows; row++) rowOf.set(ground.idOf(row), row);
  return ended.flatMap((push): Move[] => {
    const found = push.of === "item-bid" ? itemOf(ground, rowOf.get(push.key)) : recordOf(ground, push.key);
    if (!found || found.bid !== push.bid || push.bid === push.back) return [];
    const { name, campaign, rows, touches } = found;
    const expected =
      rows.length > 0 ? expectedOfBid(ground, worths, campaign ?? "", rows, push.bid, push.back) : NOTHING_EXPECTED;
    const sum = (values: ArrayLike<number>) => rows.reduce((all, row) => all + values[row]!, 0);
    return [
      {
        ...{ key: `push-end/${push.key}`, proposer: "push-ends", about: name, campaign },
        ...{ what: inWords(push.bid, push.back, ground.currency), why: `Its push was until ${push.until}` },
        acts: [
          {
            action: "amounts",
            of: push.of,
            amounts: [{ key: push.key, mills: push.back, reason: `Push until ${push.until} is over` }],
          },
        ],
        ...{ amount: { from: push.bid, to: push.back }, limitedBy: null, expected, rows, touches },
        stands: { clicks: sum(ground.sums.clicks), orders: sum(ground.sums.orders) },
      },
    ];
  });
}

interface Pushed {
  bid: number;
  name: string;
  campaign: string | null;
  rows: number[];
  touches: string[];
}

function itemOf(ground: Ground, row: number | undefined): Pushed | null {
  const home = row === undefined ? undefined : ground.homes[ground.first[row]!];
  if (row === undefined || !home) return null;
  return {
    bid: home.bid,
    name: ground.titleOf(row),
    campaign: home.campaign.key,
    rows: [row],
    touches: [home.group.key],
  };
}

function recordOf(ground: Ground, key: string): Pushed | null {
  const { account } = ground;
  const record = account.get(key);
  if (!record || !("bid" in record) || record.bid == null) return null;
  const home = ground.homes.find(({ group }) => group.key === key);
  const adGroup = "adGroup" in record ? account.find("adGroup", record.adGroup) : undefined;
  return {
    ...{ bid: record.bid, name: recordName(account, record), touches: [key] },
    ...{ campaign: home?.campaign.key ?? adGroup?.campaign ?? null, rows: home ? [...home.rows] : [] },
  };
}

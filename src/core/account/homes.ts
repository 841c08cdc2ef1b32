import { isBuyable } from "../catalogue/field-changes";
import { cellText, type Columns } from "../kit/columns";
import type { Account } from "./account";
import type { CampaignKind } from "./records/campaign";
import type { ServingGroup } from "./walk";

export interface HomesProof {
  /** Items served by no group, by one, by several. They sum to the catalogue. */
  none: number;
  one: number;
  several: number;
  /** Homes per catalogue row. */
  perRow: Uint16Array;
  /** Groups that bid on what nobody named, with the number of items they reach. */
  leaks: { campaign: string; adGroup: string; group: string; items: number }[];
}

/** Whether a kind of campaign is a home: it serves its items wherever they fit, without targets of its own. */
export function isHomeKind(kind: CampaignKind): boolean {
  return kind === "feed" || kind === "asset";
}

/**
 * Proves how many homes each item has in a structure, and where it leaks. Campaigns that aim at terms or listings serve
 * beside an item's home and count as none.
 */
export function proveHomes(serving: ServingGroup[], length: number): HomesProof {
  const perRow = new Uint16Array(length);
  const leaks: HomesProof["leaks"] = [];
  for (const { campaign, adGroup, group, rows, leak } of serving) {
    if (!isHomeKind(campaign.kind)) continue;
    for (let i = 0; i < rows.length; i++) perRow[rows[i]!]!++;
    if (leak) leaks.push({ campaign: campaign.key, adGroup: adGroup.key, group: group.key, items: rows.length });
  }
  let none = 0;
  let one = 0;
  for (const homes of perRow) {
    if (homes === 0) none++;
    else if (homes === 1) one++;
  }
  return { none, one, several: length - none - one, perRow, leaks };
}

/** How many items that can be bought have a home in one account and none in another; those that are excluded everywhere there are out on purpose. */
export function countLostHomes(
  before: HomesProof,
  after: HomesProof,
  account: Account,
  { columns, length }: Columns,
): number {
  const { availability, id } = columns;
  const excluded = new Set(account.all("exclusion").flatMap(({ campaign, item }) => (campaign === null ? [item] : [])));
  let lost = 0;
  for (let row = 0; row < length; row++) {
    if (before.perRow[row] === 0 || after.perRow[row]! > 0) continue;
    if (id && excluded.size > 0 && excluded.has(cellText(id, row))) continue;
    if (!availability || isBuyable(cellText(availability, row))) lost++;
  }
  return lost;
}

/**
 * For each row the place in `serving` of the group that serves it first: by serve order, then the higher bid, then the one
 * that stands first; −1 for a row without a home.
 */
export function firstHomes(serving: ServingGroup[], length: number): Int32Array {
  const first = new Int32Array(length).fill(-1);
  serving.forEach(({ campaign, bid, rows }, place) => {
    if (!isHomeKind(campaign.kind)) return;
    for (let i = 0; i < rows.length; i++) {
      const row = rows[i]!;
      const held = serving[first[row]!];
      const isBetter =
        held === undefined ||
        campaign.serveOrder < held.campaign.serveOrder ||
        (campaign.serveOrder === held.campaign.serveOrder && bid > held.bid);
      if (isBetter) first[row] = place;
    }
  });
  return first;
}

import { z } from "zod";
import type { Account } from "@/core/account/account";
import {
  areEnough,
  ASSET_LISTS,
  assetSetSchema,
  assetsKey,
  fieldsOf,
  wrongCounts,
  type AssetList,
  type AssetSet,
} from "@/core/account/records/assets";
import { hasAd, itemAd, type ItemAd } from "@/core/assets/item-ad";
import { readinessOf, type Readiness } from "@/core/assets/readiness";
import { cellText } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import { noSums, type Sums } from "@/core/kit/metrics";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { planogramSchema } from "@/core/planogram/planogram";
import type { Database } from "@/db/client";
import { readInAds, servedColumns, walkerOf } from "../account/serving";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { planFor } from "../planogram/planograms";
import { remember } from "../read/memo";
import { sumsByKey } from "../results/told";
import type { WorkspaceInfo } from "../workspaces";

/** An asset group with how far its ads reach and what it did. */
export interface AssetGroupLine {
  adGroup: string;
  name: string;
  campaign: string;
  campaignName: string;
  status: "on" | "paused";
  waiting: "new" | "changed" | null;
  /** Items it holds, and those for which an ad can be put together. */
  items: number;
  complete: number;
  counts: Record<AssetList, number>;
  /** Lists of which there are too few or too many; then the channel shows nothing. */
  wrong: AssetList[];
  ownBrand: boolean;
  /** Items that another asset group holds too, and the one that shares most of them. */
  shared: number;
  sharesWith: string | null;
  sums: Sums;
}

const NOTHING: AssetSet = { headlines: [], descriptions: [], pictures: [], logo: null, ownBrand: true };

export interface AssetGroups {
  /** The account's version that these are of. */
  version: number;
  groups: AssetGroupLine[];
}

/** All asset groups of the account with the basket on it. */
export async function listAssetGroups(db: Database, info: WorkspaceInfo, window: Window | null): Promise<AssetGroups> {
  const { live, planned, version } = await readAccount(db);
  const groups = assetGroupsOf(planned);
  if (groups.length === 0) return { version, groups: [] };
  const reach = await reachOf(db, info, planned);
  const sums = window ? await sumsByKey(db, window, "adGroup") : new Map<string, never>();
  const lines = groups.map(({ adGroup, campaign, assets }): AssetGroupLine => {
    const { items, complete, shared, most } = reach.get(adGroup.key)!;
    const set = assets ?? NOTHING;
    const sent = [live.get(adGroup.key), live.get(assetsKey(adGroup.key))];
    return {
      adGroup: adGroup.key,
      name: adGroup.name,
      campaign: campaign.key,
      campaignName: campaign.name,
      status: campaign.status === "on" ? adGroup.status : "paused",
      waiting: !sent[0] ? "new" : sent[0] === adGroup && sent[1] === assets ? null : "changed",
      ...{ items, complete },
      counts: Object.fromEntries(ASSET_LISTS.map((list) => [list, set[list].length])) as Record<AssetList, number>,
      wrong: wrongCounts(set),
      ownBrand: set.ownBrand,
      shared,
      sharesWith: most === null ? null : (planned.find("adGroup", most)?.name ?? null),
      sums: sums.get(adGroup.key)?.sums ?? noSums(),
    };
  });
  return { version, groups: lines };
}

/** The assets of one asset group; null where it has none yet. */
export async function assetsOf(db: Database, adGroup: string): Promise<Outcome<AssetSet | null>> {
  const { planned } = await readAccount(db);
  if (!planned.find("adGroup", adGroup)) return goneGroup();
  const found = planned.find("assets", assetsKey(adGroup));
  return ok(found ? assetSetSchema.parse(found) : null);
}

function goneGroup() {
  return fail("asset-group-gone", "That asset group is not in the account any more.", "Reload the list.");
}

function assetGroupsOf(account: Account) {
  return account.all("adGroup").flatMap((adGroup) => {
    const campaign = account.find("campaign", adGroup.campaign);
    if (campaign?.kind !== "asset") return [];
    return [{ adGroup, campaign, assets: account.find("assets", assetsKey(adGroup.key)) }];
  });
}

/** How far the ads of each asset group reach: what hangs on the account and the catalogue alone. */
interface Reach {
  items: number;
  complete: number;
  shared: number;
  /** The asset group that shares most of its items. */
  most: string | null;
}

/** Worked out once an account and revision: it goes through every item of every asset group. */
async function reachOf(db: Database, info: WorkspaceInfo, planned: Account): Promise<Map<string, Reach>> {
  const { catalogue, valueOf } = await servedColumns(db, info, planned);
  const stamp = [planned.id, catalogue.revision, info.currency];
  return remember(db, "reach of asset groups", stamp, async () => {
    const walker = await walkerOf(db, planned);
    const groups = assetGroupsOf(planned);
    const rowsOf = new Map(groups.map(({ adGroup }) => [adGroup.key, walker.rowsOf(planned, adGroup)]));
    const overlap = overlaps(rowsOf, catalogue.length);
    return new Map(
      groups.map(({ adGroup: { key }, assets }) => {
        const rows = rowsOf.get(key)!;
        const complete = assets && areEnough(assets) ? countComplete(assets, rows, valueOf) : 0;
        return [key, { items: rows.length, complete, ...overlap.get(key)! }];
      }),
    );
  });
}

function countComplete(assets: AssetSet, rows: Uint32Array, valueOf: Awaited<ReturnType<typeof readInAds>>): number {
  let complete = 0;
  for (const row of rows) if (hasAd(assets, valueOf(row))) complete++;
  return complete;
}

/** By asset group: how many of its items others hold too, and who shares most. */
function overlaps(rowsOf: Map<string, Uint32Array>, length: number) {
  const holders = new Map<number, string[]>();
  const counts = new Uint16Array(length);
  for (const rows of rowsOf.values()) for (const row of rows) counts[row]!++;
  for (const [key, rows] of rowsOf) {
    for (const row of rows) if (counts[row]! > 1) holders.set(row, [...(holders.get(row) ?? []), key]);
  }
  const found = new Map([...rowsOf.keys()].map((key) => [key, { shared: 0, by: new Map<string, number>() }]));
  for (const keys of holders.values()) {
    for (const key of keys) {
      const own = found.get(key)!;
      own.shared++;
      for (const other of keys) if (other !== key) own.by.set(other, (own.by.get(other) ?? 0) + 1);
    }
  }
  return new Map(
    [...found].map(([key, { shared, by }]) => {
      const [most] = [...by].sort((a, b) => b[1] - a[1]);
      return [key, { shared, most: most?.[0] ?? null }];
    }),
  );
}

/** Items a look shows with their ads. */
const SHOWN = 12;
/** Items that a look goes through; of more, as many are taken evenly. */
const MOST_LOOKED = 20_000;

export const lookAtAssetsSchema = z.object({
  assets: assetSetSchema,
  /** The asset group whose items are looked at, or the planogram that would make some. */
  adGroup: z.string().max(600).nullable().default(null),
  planogram: planogramSchema.optional(),
  /** Part of an ID or title, to look for an item. */
  find: z.string().max(200).default(""),
});

/** An item with what its ads would be put together from. */
export interface AdSample {
  id: string;
  title: string;
  ad: Omit<ItemAd, "pictures"> & { pictures: string[] };
}

export interface AssetLook {
  readiness: Readiness;
  /** All items of the group; more than `readiness.items` where they are too many to go through. */
  of: number;
  /** What the rows that the readiness names are called. */
  names: Record<number, { id: string; title: string }>;
  samples: AdSample[];
}

/** How assets stand over the items of a group, before they are kept. */
export async function lookAtAssets(
  db: Database,
  info: WorkspaceInfo,
  { assets, adGroup, planogram, find }: z.output<typeof lookAtAssetsSchema>,
): Promise<Outcome<AssetLook>> {
  const rows = planogram ? await plannedRowsOf(db, planogram) : await groupRows(db, adGroup);
  if (!rows.ok) return rows;
  const catalogue = await loadCatalogue(db, [...new Set(["id", "title", ...fieldsOf(assets)])]);
  const valueOf = await readInAds(db, info.currency, catalogue);
  const { columns } = catalogue;
  const name = (row: number) => ({
    id: columns["id"] ? cellText(columns["id"], row) : "",
    title: columns["title"] ? cellText(columns["title"], row) : "",
  });
  const all = rows.value;
  const step = Math.max(1, Math.ceil(all.length / MOST_LOOKED));
  const readiness = readinessOf(
    assets,
    all.filter((_, i) => i % step === 0),
    valueOf,
  );
  const named = [
    readiness.incompleteAt,
    ...readiness.lines.flatMap(({ longest, gapAt }) => [longest?.row, gapAt?.row]),
  ];
  const wanted = find.trim().toLowerCase();
  const fits = (row: number) => {
    const { id, title } = name(row);
    return id.toLowerCase().includes(wanted) || title.toLowerCase().includes(wanted);
  };
  const shown: number[] = [];
  for (const row of all) {
    if (wanted !== "" && !fits(row)) continue;
    if (shown.push(row) === SHOWN) break;
  }
  return ok({
    readiness,
    of: all.length,
    names: Object.fromEntries(named.flatMap((row) => (row === null || row === undefined ? [] : [[row, name(row)]]))),
    samples: shown.map((row) => {
      const { pictures, ...lines } = itemAd(assets, valueOf(row));
      const addresses = pictures.map((one) =>
        one.from === "field" ? valueOf(row)(one.field) : pictureAddress(info.slug, one.picture),
      );
      return { ...name(row), ad: { ...lines, pictures: addresses } };
    }),
  });
}

/** Where the browser finds an uploaded picture. */
function pictureAddress(slug: string, id: string): string {
  return `/api/v1/${slug}/pictures/${id}`;
}

async function groupRows(db: Database, key: string | null): Promise<Outcome<Uint32Array>> {
  const { planned } = await readAccount(db);
  const adGroup = planned.find("adGroup", key);
  if (!adGroup) return goneGroup();
  return ok((await walkerOf(db, planned)).rowsOf(planned, adGroup));
}

async function plannedRowsOf(db: Database, planogram: z.output<typeof planogramSchema>): Promise<Outcome<Uint32Array>> {
  const planned = await planFor(db, planogram);
  if (!planned.ok) return planned;
  const { home } = planned.value.plan;
  return ok(Uint32Array.from(home.keys()).filter((row) => home[row]! >= 0));
}

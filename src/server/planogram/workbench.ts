import type { Account } from "@/core/account/account";
import { isHomeKind } from "@/core/account/homes";
import { knownIn } from "@/core/account/names";
import type { AccountRecord } from "@/core/account/records";
import { areEnough, assetsKey } from "@/core/account/records/assets";
import type { Campaign } from "@/core/account/records/campaign";
import { groupPath, isOpen, type ProductGroup } from "@/core/account/records/product-group";
import type { Heat } from "@/core/evidence/heat";
import { nameClash } from "@/core/account/name-clash";
import { adGroupOff, campaignOff, NONE_DRY, productGroupOff, type OffReason } from "@/core/account/off";
import type { ServingGroup } from "@/core/account/walk";
import { formatDay, type Window } from "@/core/kit/days";
import { AD_MEASURES, addSums, noSums, type Sums } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { loadLinesEvidence } from "../evidence/lines";
import { rememberReady } from "../read/ready";
import { emptyRowSums, rowIndex, sumsOfRow, type LineSums, type RowSums } from "@/core/results/window-sums";
import { namerOfItems } from "../catalogue/called";
import { loadCatalogue } from "../catalogue/load";
import { dryOn } from "../results/campaign-stops";
import { loadCube } from "../results/cubes";
import { loadCodes, loadWindow, resultDays, resultsVersion } from "../results/load";
import { sumsByKey } from "../results/told";
import { walkAccount } from "../account/serving";
import { readAccount } from "../account/state";

/** A line of the workbench: a campaign, ad group or product group of the account with the basket on it. */
export interface AccountLine {
  key: string;
  level: "campaign" | "adGroup" | "productGroup";
  parent: string | null;
  name: string;
  status: "on" | "paused" | "closed";
  items: number;
  /** Mills: a day for a campaign, a click for a group. */
  dailyBudget: number | null;
  bid: number | null;
  /** Of a campaign. */
  kind: Campaign["kind"] | null;
  purpose: Campaign["purpose"] | null;
  bidding: Campaign["bidding"] | null;
  serveOrder: number | null;
  goal: number | null;
  inStockOnly: boolean | null;
  startsOn: string | null;
  endsOn: string | null;
  slots: NonNullable<Campaign["slots"]> | null;
  hours: NonNullable<Campaign["hours"]> | null;
  flex: NonNullable<Campaign["flex"]> | null;
  pool: string | null;
  folder: string | null;
  country: string | null;
  /** Of a campaign: what its name says that its settings do not. */
  clash: string | null;
  /** Why it is paused, in a person's words, and when to look again. */
  pausedFor: string;
  reviewOn: string | null;
  leaks: number;
  /** Not sent yet. */
  waiting: "new" | "changed" | null;
  /** Why it serves nothing now, or not all day; null where nothing is known to stand in its way. */
  off: OffReason | null;
  sums: Sums;
  /** What its items did before, wherever they were served; only of what is new and has no results of its own. */
  past: Sums | null;
  /** How it does against the goal, pooled with its like; null without spend. */
  heat: Heat | null;
}

export interface AccountView {
  /** The account's version these lines show; sent along with a change, it keeps that from overwriting another one's. */
  version: number;
  lines: AccountLine[];
}

/** What only some lines have. */
const PLAIN = {
  ...{ dailyBudget: null, bid: null, kind: null, purpose: null, bidding: null, serveOrder: null },
  ...{ goal: null, inStockOnly: null, startsOn: null, endsOn: null },
  ...{
    slots: null,
    hours: null,
    flex: null,
    pool: null,
    folder: null,
    country: null,
    clash: null,
    pausedFor: "",
    reviewOn: null,
  },
} as const;

function waitingIn(live: Account, record: AccountRecord): AccountLine["waiting"] {
  const sent = live.get(record.key);
  return sent === undefined ? "new" : sent === record ? null : "changed";
}

/** Campaigns and ad groups with items, leaks and results. */
export async function viewAccount(db: Database, window: Window | null, goal: number): Promise<AccountView> {
  const { live, planned, version, sealedPart } = await readAccount(db);
  const { catalogue } = await walkAccount(db, planned);
  const stamp = [version, sealedPart, catalogue.revision, await resultsVersion(db), window?.from, window?.to, goal];
  return rememberReady(db, "workbench", stamp, () => makeView(db, live, planned, version, window, goal));
}

async function makeView(
  db: Database,
  live: Account,
  planned: Account,
  version: number,
  window: Window | null,
  goal: number,
): Promise<AccountView> {
  const { serving, aimed } = await walkAccount(db, planned);
  const items = new Map<string, number>();
  const leaks = new Map<string, number>();
  const add = (counts: Map<string, number>, key: string, count: number) => {
    if (count > 0) counts.set(key, (counts.get(key) ?? 0) + count);
  };
  for (const found of [serving, aimed]) {
    // The groups of an ad group stand together, so they are counted up first and looked up once.
    for (let at = 0; at < found.length;) {
      const { campaign, adGroup } = found[at]!;
      let held = 0;
      let open = 0;
      for (; found[at]?.adGroup === adGroup; at++) {
        held += found[at]!.rows.length;
        if (found[at]!.leak && isHomeKind(campaign.kind)) open++;
      }
      for (const key of [campaign.key, adGroup.key]) {
        add(items, key, held);
        add(leaks, key, open);
      }
    }
  }
  const figures = ({ sums, heat }: Figures, key: string) => ({
    items: items.get(key) ?? 0,
    leaks: leaks.get(key) ?? 0,
    sums: sums.get(key)?.sums ?? noSums(),
    past: pasts.get(key) ?? null,
    heat: heat(key),
  });
  const pasts = await pastsOfNew(db, live, [...serving, ...aimed], window);
  const span = await resultDays(db);
  const dry = span ? await dryOn(db, span.to) : new Set<string>();
  const today = formatDay((span?.to ?? 0) + 1);
  const [ofCampaigns, ofAdGroups] = [
    await windowFigures(db, window, "campaign", goal),
    await windowFigures(db, window, "adGroup", goal),
  ];
  const campaigns = planned.all("campaign").map((campaign): AccountLine => {
    const { key, name, status, dailyBudget, kind, purpose, bidding, serveOrder } = campaign;
    const { slots = null, hours = null, flex = null, pool = null, folder = null, country = null } = campaign;
    const { pausedFor = "", reviewOn = null, startsOn = null, endsOn = null, goal, inStockOnly } = campaign;
    const own = {
      ...{ key, name, status, dailyBudget, kind, purpose, bidding, serveOrder, bid: null },
      ...{ goal, inStockOnly, startsOn, endsOn },
      ...{ slots, hours, flex, pool, folder, country, pausedFor, reviewOn, clash: nameClash(campaign) },
    };
    return {
      ...own,
      ...figures(ofCampaigns, key),
      level: "campaign",
      parent: null,
      waiting: waitingIn(live, campaign),
      off: campaignOff(campaign, { items: items.get(key) ?? 0, dry, today, isNew: !live.get(key) }),
    };
  });
  const adGroups = planned.all("adGroup").map((adGroup): AccountLine => {
    const { key, name, status, bid, campaign, pausedFor = "", reviewOn = null } = adGroup;
    const above = planned.find("campaign", campaign);
    const off = adGroupOff(adGroup, {
      above: above ? campaignOff(above, { items: 1, dry: NONE_DRY, today, isNew: false }) : "paused",
      items: items.get(key) ?? 0,
      waits: above?.kind === "asset" && !areEnough(planned.find("assets", assetsKey(key))),
    });
    // One object filled at once: of a hundred thousand ad groups, spreading several into each took seconds.
    return Object.assign({}, PLAIN, figures(ofAdGroups, key), {
      key,
      name,
      status,
      bid,
      level: "adGroup" as const,
      parent: campaign,
      waiting: waitingIn(live, adGroup),
      pausedFor,
      reviewOn,
      off,
    });
  });
  return { version, lines: [...campaigns, ...adGroups] };
}

/** Results by key, and how hot each is. */
interface Figures {
  sums: Map<string, LineSums>;
  heat: (key: string) => Heat | null;
}

async function windowFigures(
  db: Database,
  window: Window | null,
  level: "campaign" | "adGroup",
  goal: number,
): Promise<Figures> {
  if (!window) return { sums: new Map(), heat: () => null };
  const stamp = [await resultsVersion(db), window.from, window.to];
  const sums = await rememberReady(db, `sums by ${level}`, stamp, () => sumsByKey(db, window, level), 2);
  const known = [...sums.values()].map(({ told }) => told);
  const evidence = await loadLinesEvidence(db, [`workbench/${level}`, ...stamp], known, goal);
  const heat = (key: string) => {
    const line = sums.get(key);
    return line ? (evidence.of(line.told)?.heat ?? null) : null;
  };
  return { sums, heat };
}

/** Product groups listed at once. */
const MOST_GROUPS = 5000;

/** The product groups of one ad group, splits left out, with the items each holds and what those did in the ad group. */
export async function viewProductGroups(db: Database, adGroup: string, window: Window | null): Promise<AccountView> {
  const { live, planned, version } = await readAccount(db);
  const { serving, aimed } = await walkAccount(db, planned);
  const held = new Map<string, Uint32Array>();
  for (const group of [...serving, ...aimed]) if (group.adGroup.key === adGroup) held.set(group.group.key, group.rows);
  const own = window ? await rowsInAdGroup(db, adGroup, window) : null;
  const everywhere = window ? (await loadWindow(db, window)).rows : null;
  const known = knownIn(planned);
  const called = await namerOfItems(db);
  const nameOf = (group: ProductGroup, rows: Uint32Array) => {
    const path = groupPath(group, known);
    const by = group.parent === null ? null : planned.find("productGroup", group.parent)?.by;
    // An ID or the code of a family says nothing to people.
    const product = group.value !== null && (by === "id" || by === "family") ? called(rows) : "";
    return product === "" ? path : `${path} · ${product}`;
  };
  const isNewGroup = !live.get(adGroup);
  const above = await offAbove(db, planned, adGroup);
  const lines = planned
    .productGroups(adGroup)
    .filter(({ role }) => role !== "split")
    .slice(0, MOST_GROUPS)
    .map((group): AccountLine => {
      const rows = held.get(group.key) ?? new Uint32Array(0);
      const sums = own ? sumRows(own, rows) : noSums();
      return {
        ...PLAIN,
        ...{ key: group.key, level: "productGroup", parent: adGroup, name: nameOf(group, rows) },
        ...{ status: group.status, items: rows.length, bid: group.bid, leaks: isOpen(group) ? 1 : 0 },
        waiting: waitingIn(live, group),
        off: productGroupOff(group, { above, items: rows.length }),
        sums,
        past:
          everywhere && (isNewGroup || !live.get(group.key)) && sums.impressions === 0
            ? sumRows(everywhere, rows)
            : null,
        heat: null,
      };
    });
  return { version, lines };
}

/** Why all that hangs in an ad group serves nothing; null where it may serve. */
async function offAbove(db: Database, account: Account, key: string): Promise<OffReason | null> {
  const adGroup = account.find("adGroup", key);
  const campaign = account.find("campaign", adGroup?.campaign ?? null);
  if (!adGroup || !campaign) return "paused";
  const today = formatDay(((await resultDays(db))?.to ?? 0) + 1);
  const above = campaignOff(campaign, { items: 1, dry: NONE_DRY, today, isNew: false });
  const waits = campaign.kind === "asset" && !areEnough(account.find("assets", assetsKey(key)));
  return adGroupOff(adGroup, { above, items: 1, waits });
}

function sumRows(rows: RowSums, of: Iterable<number>): Sums {
  const total = noSums();
  for (const row of of) addSums(total, sumsOfRow(rows, row));
  return total;
}

/** What each row of the catalogue did in one ad group. */
async function rowsInAdGroup(db: Database, adGroup: string, window: Window): Promise<RowSums> {
  const { ads } = await loadCube(db, "item", window, false);
  const { byText } = await loadCodes(db);
  const catalogue = await loadCatalogue(db, []);
  const itemNo = catalogue.columns["itemNo"];
  const index = rowIndex(itemNo?.kind === "number" ? itemNo.values : []);
  const rows = emptyRowSums(catalogue.length);
  const wanted = byText.get(`adGroup/${adGroup}`) ?? -1;
  const { adGroup: groups, item } = ads.dimensions;
  for (let line = 0; line < ads.length; line++) {
    const row = groups![line] === wanted ? (index[item![line]!] ?? -1) : -1;
    if (row < 0) continue;
    for (const measure of AD_MEASURES) rows[measure][row] = rows[measure][row]! + ads.sums[measure][line]!;
  }
  return rows;
}

/** What the items of new campaigns and ad groups did before, wherever they were served, by key. */
async function pastsOfNew(
  db: Database,
  live: Account,
  groups: ServingGroup[],
  window: Window | null,
): Promise<Map<string, Sums>> {
  if (!window) return new Map();
  const rowsOf = new Map<string, Set<number>>();
  for (const { campaign, adGroup, rows } of groups) {
    for (const { key } of [campaign, adGroup]) {
      if (live.get(key)) continue;
      const set = rowsOf.get(key) ?? new Set();
      rowsOf.set(key, set);
      for (const row of rows) set.add(row);
    }
  }
  if (rowsOf.size === 0) return new Map();
  const { rows } = await loadWindow(db, window);
  return new Map([...rowsOf].map(([key, set]) => [key, sumRows(rows, set)]));
}

import type { Account } from "@/core/account/account";
import { isHomeKind } from "@/core/account/homes";
import { knownIn } from "@/core/account/names";
import type { AccountRecord } from "@/core/account/records";
import type { Campaign } from "@/core/account/records/campaign";
import { groupPath, isOpen } from "@/core/account/records/product-group";
import type { Heat } from "@/core/evidence/heat";
import { linesEvidence } from "@/core/evidence/lines";
import type { Window } from "@/core/kit/days";
import { noSums, type Sums } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { remember } from "../read/memo";
import type { LineSums } from "@/core/results/window-sums";
import { resultsVersion } from "../results/load";
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
  slots: NonNullable<Campaign["slots"]> | null;
  hours: NonNullable<Campaign["hours"]> | null;
  flex: NonNullable<Campaign["flex"]> | null;
  pool: string | null;
  /** Why it is paused, in a person's words, and when to look again. */
  pausedFor: string;
  reviewOn: string | null;
  leaks: number;
  /** Not sent yet. */
  waiting: "new" | "changed" | null;
  sums: Sums;
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
  ...{ slots: null, hours: null, flex: null, pool: null, pausedFor: "", reviewOn: null },
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
  return remember(db, "workbench", stamp, () => makeView(db, live, planned, version, window, goal));
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
    heat: heat(key),
  });
  const [ofCampaigns, ofAdGroups] = [
    await windowFigures(db, window, "campaign", goal),
    await windowFigures(db, window, "adGroup", goal),
  ];
  const campaigns = planned.all("campaign").map((campaign): AccountLine => {
    const { key, name, status, dailyBudget, kind, purpose, bidding, serveOrder } = campaign;
    const { slots = null, hours = null, flex = null, pool = null, pausedFor = "", reviewOn = null } = campaign;
    const own = {
      ...{ key, name, status, dailyBudget, kind, purpose, bidding, serveOrder, bid: null },
      ...{ slots, hours, flex, pool, pausedFor, reviewOn },
    };
    return {
      ...own,
      ...figures(ofCampaigns, key),
      level: "campaign",
      parent: null,
      waiting: waitingIn(live, campaign),
    };
  });
  const adGroups = planned.all("adGroup").map((adGroup): AccountLine => {
    const { key, name, status, bid, campaign, pausedFor = "", reviewOn = null } = adGroup;
    return {
      ...PLAIN,
      ...{ pausedFor, reviewOn },
      ...{ key, name, status, bid, level: "adGroup", parent: campaign, waiting: waitingIn(live, adGroup) },
      ...figures(ofAdGroups, key),
    };
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
  const sums = await remember(db, `sums by ${level}`, stamp, () => sumsByKey(db, window, level), 2);
  const evidence = linesEvidence(
    [...sums.values()].map(({ told }) => told),
    goal,
  );
  const heat = (key: string) => {
    const line = sums.get(key);
    return line ? (evidence.of(line.told)?.heat ?? null) : null;
  };
  return { sums, heat };
}

/** The product groups of one ad group, splits left out, with the items each holds. */
export async function viewProductGroups(db: Database, adGroup: string, limit = 500): Promise<AccountView> {
  const { live, planned, version } = await readAccount(db);
  const { serving, aimed } = await walkAccount(db, planned);
  const items = new Map<string, number>();
  for (const group of [...serving, ...aimed]) {
    if (group.adGroup.key === adGroup) items.set(group.group.key, group.rows.length);
  }
  const known = knownIn(planned);
  const lines = planned
    .productGroups(adGroup)
    .filter(({ role }) => role !== "split")
    .slice(0, limit)
    .map((group): AccountLine => ({
      ...PLAIN,
      key: group.key,
      level: "productGroup",
      parent: adGroup,
      name: groupPath(group, known),
      status: group.status,
      items: items.get(group.key) ?? 0,
      bid: group.bid,
      leaks: isOpen(group) ? 1 : 0,
      waiting: waitingIn(live, group),
      sums: noSums(),
      heat: null,
    }));
  return { version, lines };
}

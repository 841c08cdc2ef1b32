import { and, eq, isNull } from "drizzle-orm";
import { ALERT_KINDS, type AlertKind } from "@/core/alerts/alerts";
import type { Account } from "@/core/account/account";
import { dayAt, formatDay } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { alerts } from "@/db/schema";
import { readAccount } from "../account/state";
import { placementsDue, type PlacementsDue } from "../exclusions/placements/due";
import { experimentsOver } from "../experiments/running";
import { campaignStops } from "../results/campaign-stops";
import { windowOfDays } from "../results/window";
import { windowTotal } from "./results/till";
import type { WorkspaceInfo } from "../workspaces";
import { diagnose } from "./catalogue/diagnose";

/** A campaign that runs out of money before its day is over. */
export interface RunsDry {
  key: string;
  name: string;
  /** Days of the last ones, and the hour at which it stopped on average. */
  days: number;
  of: number;
  hour: number;
}

/** What asks for a person's decision today, beside what screens of their own tell. Money in mills. */
export interface Asks {
  /** Campaigns and ad groups that were paused until today or before, and that still are. */
  pausesDue: { key: string; name: string; reviewOn: string; pausedFor: string }[];
  /** Exclusions and negatives whose day to look again has come, and how many of those wait in the basket. */
  exclusionsDue: { all: number; waiting: number };
  /** Placements that wait for a review that is due. */
  placementsDue: PlacementsDue | null;
  /** Experiments whose days are over, and that nobody has settled. */
  experimentsOver: { id: number; name: string }[];
  runDry: RunsDry[];
  /** Alerts that speak up and that nobody put aside, but for those that the other lines tell. */
  alerts: { kind: AlertKind; says: string }[];
  /** Faults of the catalogue that cost money: the spend of the last 30 days on items that have them. */
  faults: { code: string; label: string; items: number; cost: number }[];
}

/** Days that faults are weighed by, as where they are listed. */
const FAULT_DAYS = 30;
/** Run dry on at least this share of the last days: a single one is no reason to act. */
const OFTEN = 0.5;

/** What asks for a decision today. */
export async function asksOfToday(db: Database, info: WorkspaceInfo): Promise<Asks> {
  const { planned, live } = await readAccount(db);
  const today = formatDay(dayAt(Date.now(), info.timeZone));
  return {
    pausesDue: pausesDue(planned, today),
    exclusionsDue: exclusionsDue(planned, live, today),
    placementsDue: await placementsDue(db, info, planned),
    experimentsOver: await experimentsOver(db, info),
    runDry: await oftenDry(db, live),
    alerts: await speakingAlerts(db),
    faults: await faultsThatCost(db),
  };
}

/** Told by lines of their own already. */
const TOLD_ELSEWHERE: ReadonlySet<AlertKind> = new Set(["dry", "homeless", "sold-out"]);

async function speakingAlerts(db: Database): Promise<Asks["alerts"]> {
  const rows = await db
    .select({ kind: alerts.kind, says: alerts.says })
    .from(alerts)
    .where(and(eq(alerts.isOn, true), eq(alerts.state, "speaks"), isNull(alerts.aside)));
  return ALERT_KINDS.flatMap((kind) => rows.filter((row) => row.kind === kind && !TOLD_ELSEWHERE.has(kind)));
}

function pausesDue(account: Account, today: string): Asks["pausesDue"] {
  return [...account.all("campaign"), ...account.all("adGroup")]
    .flatMap(({ key, name, status, reviewOn, pausedFor = "" }) =>
      status !== "on" && reviewOn && reviewOn <= today ? [{ key, name, reviewOn, pausedFor }] : [],
    )
    .sort((a, b) => (a.reviewOn < b.reviewOn ? -1 : 1));
}

function exclusionsDue(planned: Account, live: Account, today: string): Asks["exclusionsDue"] {
  const due = [...planned.all("exclusion"), ...planned.all("negative")].filter(
    ({ reviewOn }) => reviewOn !== null && reviewOn <= today,
  );
  return { all: due.length, waiting: due.filter(({ key }) => !live.has(key)).length };
}

/** Running campaigns that were out of money on at least half of the last days, the most often first. */
export async function oftenDry(db: Database, live: Account): Promise<RunsDry[]> {
  const { of, stops } = await campaignStops(db);
  return [...stops]
    .flatMap(([key, { days, hour }]): RunsDry[] => {
      const campaign = live.find("campaign", key);
      if (campaign?.status !== "on" || days < of * OFTEN) return [];
      return [{ key, name: campaign.name, days, of, hour }];
    })
    .sort((a, b) => b.days - a.days || a.hour - b.hour);
}

async function faultsThatCost(db: Database): Promise<Asks["faults"]> {
  const total = (await windowTotal(db, await windowOfDays(db, FAULT_DAYS))).cost;
  return (await diagnose(db)).flatMap(({ code, label, severity, count, spendShare }) => {
    const cost = Math.round((spendShare ?? 0) * total);
    return severity === "money" && cost > 0 ? [{ code, label, items: count, cost }] : [];
  });
}

import { and, between, count, desc, eq, lt, sum } from "drizzle-orm";
import { digestHtml, lastWeek, type Digest } from "@/core/alerts/digest";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { formatDay, windowBefore, windowEnding, type Window } from "@/core/kit/days";
import { noSums } from "@/core/kit/metrics";
import { atStake } from "@/core/moves/move";
import { findFaults } from "@/core/stocktake/faults";
import type { Database } from "@/db/client";
import { alerts, digests, dispatches, stocktakeDismissals } from "@/db/schema";
import { viewSlice } from "../across/results/slice";
import { sliceSchema } from "../across/results/slice-query";
import { json, type FileAnswer } from "../files/answers";
import { openMoves } from "../moves/moves";
import { resultDays } from "../results/load";
import { loadMaterial } from "../stocktake/material";
import type { WorkspaceInfo } from "../workspaces";

/** Findings and moves that a digest tells, the most money first. */
const MOST_FINDINGS = 5;
const MOST_MOVES = 3;
/** Days that what is wrong is looked for in. */
const FINDING_DAYS = 90;

/** The last week that is over and of which all days have results, where nobody told how it went; else null. */
export async function weekToTell(db: Database): Promise<Window | null> {
  const span = await resultDays(db);
  if (!span) return null;
  const week = lastWeek(span.to);
  if (week.from < span.from) return null;
  const [told] = await db.select({ id: digests.id }).from(digests).where(eq(digests.fromDay, week.from));
  return told ? null : week;
}

/** Tells how a week went, and keeps it. What it says stays as it was on that day. */
export async function tellWeek(db: Database, info: WorkspaceInfo, week: Window): Promise<{ id: number; made: Digest }> {
  const { made, found } = await digestOf(db, info, week);
  const [row] = await db
    .insert(digests)
    .values({ fromDay: week.from, at: Date.now(), made, found })
    .onConflictDoUpdate({ target: digests.fromDay, set: { at: Date.now(), made, found } })
    .returning({ id: digests.id });
  return { id: row!.id, made };
}

async function digestOf(db: Database, info: WorkspaceInfo, week: Window): Promise<{ made: Digest; found: string[] }> {
  const { currency, goal } = info;
  const slice = await viewSlice(
    db,
    info,
    sliceSchema.parse({ level: "workspace", ...spelled(week), compare: "range", ...compared(windowBefore(week)) }),
  );
  const speaking = await db
    .select()
    .from(alerts)
    .where(and(eq(alerts.state, "speaks"), eq(alerts.isOn, true)));
  const loaded = await loadMaterial(db, info, windowEnding(week.to, FINDING_DAYS), async () => {});
  const aside = new Set((await db.select().from(stocktakeDismissals)).map(({ finding }) => finding));
  const findings = loaded.ok ? findFaults(loaded.value.material).filter(({ key }) => !aside.has(key)) : [];
  const keys = findings.map(({ key }) => key);
  const [earlier] = await db
    .select({ found: digests.found })
    .from(digests)
    .where(lt(digests.fromDay, week.from))
    .orderBy(desc(digests.fromDay))
    .limit(1);
  const open = await openMoves(db, info);
  const moves = open.ok ? open.value.moves : [];
  const made: Digest = {
    ...{ from: week.from, to: week.to, currency, goal },
    week: slice.ok ? slice.value.total : noSums(),
    before: slice.ok ? slice.value.before : null,
    missing: slice.ok ? slice.value.missingOfTotal : [],
    sent: await sentIn(db, week),
    alerts: speaking.map(({ kind, says }) => ({ kind, says })),
    found: loaded.ok
      ? {
          findings: findings.slice(0, MOST_FINDINGS),
          all: findings.length,
          mended: earlier ? earlier.found.filter((key) => !keys.includes(key) && !aside.has(key)).length : null,
          fresh: earlier ? keys.filter((key) => !earlier.found.includes(key)).length : null,
        }
      : null,
    moves: [...moves]
      .map((move) => ({ move, stake: atStake(move) }))
      .sort((a, b) => b.stake - a.stake)
      .slice(0, MOST_MOVES)
      .map(({ move: { key, what, about }, stake }) => ({ key, what, about, stake })),
  };
  return { made, found: keys };
}

const spelled = ({ from, to }: Window) => ({ from: formatDay(from), to: formatDay(to) });
const compared = ({ from, to }: Window) => ({ compareFrom: formatDay(from), compareTo: formatDay(to) });

/** What went out to the channel and worked from a day of the week on. */
async function sentIn(db: Database, { from, to }: Window): Promise<Digest["sent"]> {
  const [row] = await db
    .select({ dispatches: count(), changes: sum(dispatches.size) })
    .from(dispatches)
    .where(and(eq(dispatches.state, "sent"), between(dispatches.fromDay, from, to)));
  return { dispatches: row?.dispatches ?? 0, changes: Number(row?.changes ?? 0) };
}

/** A week in the list. */
export interface WeekLine {
  id: number;
  from: number;
  to: number;
  at: number;
  roas: number | null;
  cost: number;
  findings: number | null;
}

/** Weeks that were told, the last first. */
export async function listWeeks(db: Database): Promise<WeekLine[]> {
  const rows = await db.select().from(digests).orderBy(desc(digests.fromDay)).limit(MOST_LISTED);
  return rows.map(({ id, at, made: { from, to, week, found } }) => ({
    ...{ id, from, to, at, cost: week.cost, findings: found?.all ?? null },
    roas: week.cost > 0 ? week.revenue / week.cost : null,
  }));
}

/** Two years. */
const MOST_LISTED = 104;

/** How a week went, as it was told. */
export async function viewWeek(db: Database, id: number): Promise<Outcome<Digest & { id: number; at: number }>> {
  const [row] = await db.select().from(digests).where(eq(digests.id, id));
  return row ? ok({ ...row.made, id, at: row.at }) : fail("week-unknown", `There is no week ${id}.`);
}

/** A week as a file to send. */
export async function weekFile(
  db: Database,
  { name }: WorkspaceInfo,
  id: number,
  format: "html" | "json",
): Promise<Outcome<FileAnswer>> {
  const found = await viewWeek(db, id);
  if (!found.ok) return found;
  const fileName = `week-of-${formatDay(found.value.from)}.${format}`;
  return ok(
    format === "json"
      ? json(fileName, found.value)
      : { file: digestHtml(found.value, name), name: fileName, contentType: "text/html; charset=utf-8" },
  );
}

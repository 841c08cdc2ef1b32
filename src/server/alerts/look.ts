import { eq } from "drizzle-orm";
import { z } from "zod";
import { ALERT_KINDS, ALERTS, firstLimit, judgeAlert, type AlertKind, type AlertState } from "@/core/alerts/alerts";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { alertLooks, alerts } from "@/db/schema";
import { enqueueJob, isResting } from "../jobs/jobs";
import type { JobHandler } from "../jobs/work";
import { resultDays } from "../results/load";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { alertFacts } from "./facts";
import { queueMessage } from "./messages";
import { tellWeek, weekToTell } from "./week";

/** An alert with how it stood when it was looked at last. */
export interface AlertView {
  kind: AlertKind;
  isOn: boolean;
  limit: number | null;
  /** Null until it was looked at. */
  state: AlertState["state"] | null;
  says: string;
  since: number | null;
  /** Why somebody put it aside until it is quiet again. */
  aside: string | null;
  asideBy: string | null;
}

/** All alerts, and when they were looked at last. */
export async function viewAlerts(db: Database): Promise<{ alerts: AlertView[]; lookedAt: number | null }> {
  const rows = new Map((await db.select().from(alerts)).map((row) => [row.kind, row]));
  const [look] = await db.select().from(alertLooks);
  return {
    alerts: ALERT_KINDS.map((kind) => rows.get(kind) ?? unseen(kind)),
    lookedAt: look?.at ?? null,
  };
}

function unseen(kind: AlertKind): AlertView {
  return {
    ...{ kind, isOn: true, limit: firstLimit(kind), state: null, says: "" },
    ...{ since: null, aside: null, asideBy: null },
  };
}

export const alertSchema = z
  .object({ kind: z.enum(ALERT_KINDS as [AlertKind, ...AlertKind[]]), isOn: z.boolean(), limit: z.number().nullable() })
  .superRefine(({ kind, limit }, context) => {
    const ends = ALERTS[kind].limit;
    if (!ends && limit === null) return;
    if (!ends) return context.addIssue({ code: "custom", path: ["limit"], message: "This one has no limit." });
    if (limit === null || limit < ends.least || limit > ends.most) {
      const message = `A number of ${ends.unit} from ${ends.least} to ${ends.most}.`;
      context.addIssue({ code: "custom", path: ["limit"], message });
    }
  });

/** Sets what is watched; how it stands by that is looked at again at once. */
export async function setAlert(
  db: Database,
  info: WorkspaceInfo,
  { kind, isOn, limit }: z.output<typeof alertSchema>,
): Promise<Outcome<Awaited<ReturnType<typeof viewAlerts>>>> {
  await db
    .insert(alerts)
    .values({ kind, isOn, limit })
    .onConflictDoUpdate({ target: alerts.kind, set: { isOn, limit } });
  const words = isOn
    ? `watched${limit === null ? "" : `, limit ${limit} ${ALERTS[kind].limit?.unit ?? ""}`}`
    : "no longer watched";
  await noteChange(db, `Alert “${ALERTS[kind].title}”: ${words}`, "", "alerts");
  await lookAtAlerts(db, info);
  return ok(await viewAlerts(db));
}

export const asideSchema = z.object({
  /** Why; empty takes the alert up again. */
  reason: z.string().trim().max(400),
});

/** Puts an alert that speaks up aside until it is quiet again, or takes it up. */
export async function putAside(
  db: Database,
  who: string,
  kind: string,
  { reason }: z.output<typeof asideSchema>,
): Promise<Outcome<Awaited<ReturnType<typeof viewAlerts>>>> {
  const [row] = await db
    .select()
    .from(alerts)
    .where(eq(alerts.kind, kind as AlertKind));
  if (row?.state !== "speaks")
    return fail("alert-quiet", "That alert does not speak up, so there is nothing to put aside.");
  const isAside = reason !== "";
  await db
    .update(alerts)
    .set({ aside: isAside ? reason : null, asideBy: isAside ? who : null })
    .where(eq(alerts.kind, row.kind));
  await noteChange(
    db,
    `Alert “${ALERTS[row.kind].title}” ${isAside ? "put aside" : "taken up again"}`,
    reason,
    "alerts",
  );
  return ok(await viewAlerts(db));
}

/**
 * Looks at all alerts and keeps how they stand. One that begins to speak up is queued for the address they are sent to; one that
 * is quiet again is no longer put aside.
 * @returns the kinds that began to speak up
 */
export async function lookAtAlerts(db: Database, info: WorkspaceInfo, now = Date.now()): Promise<AlertKind[]> {
  const facts = await alertFacts(db, info, now);
  const { alerts: known } = await viewAlerts(db);
  const began: AlertKind[] = [];
  const day = (await resultDays(db))?.to ?? null;
  await db.transaction(async (tx) => {
    for (const { kind, isOn, limit, state: earlier, since, aside, asideBy } of known) {
      if (!isOn) continue;
      const { state, says } = judgeAlert(kind, limit, facts);
      const isNew = state !== earlier;
      const set = {
        ...{ state, says, since: isNew ? now : since },
        ...(state === "speaks" ? { aside, asideBy } : { aside: null, asideBy: null }),
      };
      await tx
        .insert(alerts)
        .values({ kind, limit, ...set })
        .onConflictDoUpdate({ target: alerts.kind, set });
      if (!isNew || state !== "speaks") continue;
      began.push(kind);
      await queueMessage(tx, info, "alert.speaks", now, { alert: kind, about: ALERTS[kind].title, says, limit });
    }
    await tx
      .insert(alertLooks)
      .values({ id: 1, at: now, day })
      .onConflictDoUpdate({ target: alertLooks.id, set: { at: now, day } });
  });
  return began;
}

/** What a job of alerts did. */
export interface Looked {
  began: AlertKind[];
  /** The week that was told, by its number; null where none was over. */
  week: number | null;
}

async function run({ db, info }: { db: Database; info: WorkspaceInfo }): Promise<Looked> {
  const began = await lookAtAlerts(db, info);
  const week = await weekToTell(db);
  if (!week) return { began, week: null };
  const { id, made } = await tellWeek(db, info, week);
  await queueMessage(db, info, "week.told", Date.now(), made);
  return { began, week: id };
}

/** Each part is kept as a whole or not at all, so there is nothing to take back. */
export const alertsJob: JobHandler = { run, rollBack: async () => {} };

/** Without new results alerts are looked at again after so long, ms: feeds grow old by the clock. */
const LOOK_EVERY = 6 * 3_600_000;

/** Queues a look at alerts once results have new days, or the last look is hours ago. */
export async function queueDueAlerts(db: Database): Promise<void> {
  const [look] = await db.select().from(alertLooks);
  const day = (await resultDays(db))?.to ?? null;
  if (look ? look.day === day && Date.now() - look.at < LOOK_EVERY : day === null) return;
  if (!(await isResting(db, "alerts"))) await enqueueJob(db, "alerts", {});
}

import { eq } from "drizzle-orm";
import { z } from "zod";
import type { AccountRecord } from "@/core/account/records";
import { changeInWords } from "@/core/experiments/changes";
import { diffSize, invertDiff, type Diff } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { experiments } from "@/db/schema";
import { commit } from "../account/commit";
import { partThatStands, redraft } from "../account/edits";
import { enqueueIn, newJob } from "../jobs/jobs";
import { resultDays } from "../results/load";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { findExperiment } from "./experiments";
import { armOf, draftFor, type planSchema, readyExperiment, type ExperimentPlan } from "./plan";
import { stageOf, standingOf, type ExperimentRow } from "./running";
import { stands } from "./switches";

/** An experiment that was begun: its number, and what lies in the basket for it. */
export interface Begun {
  id: number;
  changes: number;
  version: number;
  plan: ExperimentPlan;
}

/**
 * Begins an experiment: its change for one arm goes into the basket, and it counts from the first day on which the channel has it.
 * @param stamp the version of the account that the person saw
 */
export async function beginExperiment(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  stamp: number | null,
  asked: z.output<typeof planSchema>,
): Promise<Outcome<Begun>> {
  const { name, change } = asked.definition;
  let id = 0;
  const begun = await commit<Begun>(db, who, stamp, async (at) => {
    const ready = await readyExperiment(db, info, asked, at);
    if (!ready.ok) return ready;
    const { matched, draft, plan, definition } = ready.value;
    const { arms, campaigns, noise, before } = matched;
    const diff = draft.diff();
    const values = {
      ...{ definition, seed: asked.seed, arms, campaigns, diff, noise, who, at: Date.now() },
      ...{ beforeFrom: before.from, beforeTo: before.to },
    };
    // Its number is part of what is written, so its row comes first; it is dropped again where nothing is written.
    if (id === 0)
      [{ id }] = (await db.insert(experiments).values(values).returning({ id: experiments.id })) as [{ id: number }];
    else await db.update(experiments).set(values).where(eq(experiments.id, id));
    return ok({
      into: {
        draft,
        cause: { kind: "experiment" as const, id: String(id) },
        reason: `Experiment “${name}”: ${changeInWords(change)}`.slice(0, 300),
      },
      told: {
        what: `Experiment “${name}” begun: ${changeInWords(change)}, ${plural(matched.pairs, "pair")}, ${definition.days} days`,
        ...{ why: definition.hypothesis, place: "experiments", about: `experiment/${id}` },
      },
      value: { id, changes: diffSize(diff), version: at.version + 1, plan },
    });
  });
  if (!begun.ok && id !== 0) await db.delete(experiments).where(eq(experiments.id, id));
  return begun;
}

/** How an experiment can be ended. */
export const endSchema = z.object({
  /** Its change goes back, stays for all that it was tried on, or is left where it is. */
  how: z.enum(["take back", "for all", "leave"]),
});

/** What ending an experiment put into the basket. */
export interface Ended {
  changes: number;
  /** Records that somebody changed since, which stay as they are. */
  overtaken: number;
  version: number;
}

const ENDED_HOW = { "take back": "taken back", "for all": "for all", leave: "left" } as const;

/**
 * Ends an experiment. What that changes goes into the basket, to be looked through and sent like any other change; results from
 * the next day on do not count any more.
 */
export async function endExperiment(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  stamp: number | null,
  id: number,
  { how }: z.output<typeof endSchema>,
): Promise<Outcome<Ended>> {
  const found = await findExperiment(db, id);
  if (!found.ok) return found;
  const row = found.value;
  const lastDay = (await resultDays(db))?.to ?? null;
  const standing = (await standingOf(db, info))(id);
  const stage = stageOf({ ...row, days: row.definition.days }, standing, lastDay);
  if (stage === "ended") return fail("experiment-ended", "It was ended before.");
  const { name } = row.definition;
  const endedDay = Math.max(lastDay ?? 0, (standing.start ?? 1) - 1);
  return commit<Ended>(db, who, stamp, async ({ planned, version }) => {
    const made = await changeAtEnd(db, info, row, how, planned, lastDay ?? 0);
    if (!made.ok) return made;
    const { draft, overtaken } = made.value;
    const changes = draft ? diffSize(draft.diff()) : 0;
    return ok({
      ...(draft && {
        into: {
          draft,
          cause: { kind: "experiment" as const, id: String(id) },
          reason: `Experiment “${name}” ended: ${ENDED_HOW[how]}`.slice(0, 300),
        },
      }),
      told: { what: `Experiment “${name}” ended: ${ENDED_HOW[how]}`, place: "experiments", about: `experiment/${id}` },
      also: async (tx) => {
        await tx.execute({
          sql: "UPDATE experiments SET ended_day = ?, ended_how = ?, ended_by = ? WHERE id = ?",
          args: [endedDay, ENDED_HOW[how], who, id],
        });
      },
      value: { changes, overtaken, version: version + 1 },
    });
  });
}

type Planned = Parameters<typeof redraft>[0];

async function changeAtEnd(
  db: Database,
  info: WorkspaceInfo,
  { definition, arms, diff }: ExperimentRow,
  how: "take back" | "for all" | "leave",
  planned: Planned,
  lastDay: number,
) {
  if (how === "leave") return ok({ draft: null, overtaken: 0 });
  if (how === "take back") return backWhereItStands(planned, diff);
  if (arms.of === "days") {
    const draft = redraft(planned, partThatStands(planned, diff, "before"), "Nothing was changed.");
    return draft.ok ? ok({ draft: draft.value, overtaken: diffSize(diff) - diffSize(draft.value.diff()) }) : draft;
  }
  const draft = await draftFor(
    db,
    info,
    planned,
    definition,
    await armOf(db, arms, definition.campaigns, "without"),
    lastDay,
  );
  return draft.ok ? ok({ draft: draft.value, overtaken: 0 }) : draft;
}

/** What takes a change back wherever it stands as it was made; what somebody changed since stays. */
function backWhereItStands(account: Planned, diff: Diff<AccountRecord>) {
  const back = invertDiff(partThatStands(account, diff, "after"));
  const draft = redraft(account, back, "Nothing was taken back.");
  return draft.ok ? ok({ draft: draft.value, overtaken: diffSize(diff) - diffSize(back) }) : draft;
}

/** Forgets an experiment that never began; what waits for it in the basket is taken out there. */
export async function forgetExperiment(
  db: Database,
  info: WorkspaceInfo,
  id: number,
): Promise<Outcome<{ forgotten: true }>> {
  const found = await findExperiment(db, id);
  if (!found.ok) return found;
  const stage = stageOf({ ...found.value, days: found.value.definition.days }, (await standingOf(db, info))(id), null);
  if (stage !== "dropped") {
    return fail(
      "experiment-begun",
      stage === "waiting" ? "Its changes wait in the basket." : "It was begun, and what it found is kept.",
      stage === "waiting" ? "Take them out of the basket first." : "",
    );
  }
  await db.delete(experiments).where(eq(experiments.id, id));
  await noteChange(db, `Experiment “${found.value.definition.name}” forgotten: it never began`, "", "experiments");
  return ok({ forgotten: true });
}

/**
 * Ends an experiment for harm: what it changed is taken back past the basket, as was agreed when it was begun.
 * @param mayBeSent false where somebody has to approve what is sent: then it is only ended, and taken back by hand
 */
export async function stopForHarm(
  db: Database,
  row: ExperimentRow,
  who: string,
  day: number,
  mayBeSent: boolean,
): Promise<void> {
  const job = newJob("dispatch", { takesBack: null, switches: { experiment: row.id, isOn: false } });
  const { name } = row.definition;
  await commit(db, who, null, ({ live }) =>
    ok({
      told: {
        what: `Experiment “${name}” stopped: harm is sure enough`,
        why: mayBeSent ? "It is taken back by itself." : "Somebody has to approve what is sent: take it back by hand.",
        ...{ place: "experiments", about: `experiment/${row.id}` },
      },
      also: async (tx) => {
        await tx.execute({
          sql: "UPDATE experiments SET ended_day = ?, ended_how = 'harm', ended_by = ? WHERE id = ?",
          args: [day, who, row.id],
        });
        if (mayBeSent && stands(live, row.diff) !== "off") await enqueueIn(tx, job);
      },
      value: null,
    }),
  );
}

import type { Account } from "@/core/account/account";
import { recordName } from "@/core/account/names";
import { RECORD_TYPES, type AccountRecord } from "@/core/account/records";
import { changesInWords, describeDiff } from "@/core/account/words";
import { diffOf, diffSize, sameValue, type Diff } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, FailureError, ok } from "@/core/kit/outcome";
import { z } from "zod";
import { commit } from "../account/commit";
import { readAccount } from "../account/state";
import { standingAt } from "../channel/books";
import { resultDays } from "../results/load";
import type { JobContext, JobHandler } from "../jobs/work";
import { channelOf } from "./channel-of";

/** Reads back what stands at the channel; `adopt` takes it over as what it has. */
export const readChannelSchema = z.object({ adopt: z.boolean().default(false) });

/** How what stands at the channel differs from what is thought to. */
export interface ReadChannel {
  records: number;
  /** Records that stand there otherwise, that are only there, and that are not there. */
  otherwise: number;
  onlyThere: number;
  missing: number;
  /** Some of it in words: from what is thought to what stands. */
  words: string[];
  /** The dispatch under which it was taken over; null where it was not. */
  dispatch: number | null;
}

const MOST_TOLD = 50;

/** What leads from what is thought to stand to what does. */
function differences(thought: Account, stands: Account): Diff<AccountRecord> {
  const rows: [string, AccountRecord | null, AccountRecord | null][] = [];
  for (const type of RECORD_TYPES) {
    for (const record of stands.all(type)) {
      const before = thought.get(record.key) ?? null;
      if (!sameValue(before, record)) rows.push([record.key, before, record]);
    }
    for (const record of thought.all(type)) if (!stands.has(record.key)) rows.push([record.key, record, null]);
  }
  return diffOf(rows);
}

async function run(context: JobContext, raw: unknown): Promise<ReadChannel> {
  const { adopt } = readChannelSchema.parse(raw);
  const { db, info } = context;
  const { kind, channel } = await channelOf(db, info);
  const stands = await standingAt(channel, (done) => context.progress(done, null, "records"));
  const { live } = await readAccount(db);
  const diff = differences(live, stands);
  const told: Omit<ReadChannel, "dispatch"> = {
    records: stands.size,
    otherwise: Object.keys(diff.changed).length,
    onlyThere: Object.keys(diff.added).length,
    missing: Object.keys(diff.removed).length,
    words: changesInWords(live, diff, info.currency)
      .slice(0, MOST_TOLD)
      .map(({ text }) => text),
  };
  if (!adopt || diffSize(diff) === 0) return { ...told, dispatch: null };
  const days = await resultDays(db);
  const done = await commit(db, context.who, null, ({ live: now, rows }) => {
    const found = differences(now, stands);
    const waiting = rows.find(({ key }) => key in found.added || key in found.changed || key in found.removed);
    if (waiting) {
      const record = waiting.after ?? waiting.before;
      const name = record ? `"${recordName(now, record)}"` : "a record";
      return fail(
        "basket-in-use",
        `The basket holds a change of ${name}, which stands otherwise at the channel. Nothing was taken over.`,
        "Take it out of the basket, take over what stands, then decide anew.",
      );
    }
    return ok({
      send: {
        ...{ diff: found, job: context.id, takesBack: null, isFound: true, channel: kind },
        ...{
          fromDay: days ? days.to + 1 : null,
          words: ["Found at the channel, nothing was sent.", ...describeDiff(now, found, info.currency)],
        },
      },
      told: {
        what: `Taken over from the channel: ${plural(diffSize(found), "record")} that stood otherwise there`,
        ...{ place: "dispatch", about: "dispatch/{dispatch}" },
      },
      value: (dispatch: number | null) => dispatch,
    });
  });
  if (!done.ok) throw new FailureError(done.error);
  return { ...told, dispatch: done.value };
}

/** Reading stores nothing, and taking over is one transaction. */
export const channelReadJob: JobHandler = { run, rollBack: async () => {} };

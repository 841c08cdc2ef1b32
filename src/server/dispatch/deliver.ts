import { setTimeout as sleep } from "node:timers/promises";
import type { AccountRecord } from "@/core/account/records";
import { MOST_CHANGES, type Answer, type Change, type Channel } from "@/core/dispatch/contract";
import { inOrder } from "@/core/dispatch/order";
import type { Diff } from "@/core/kit/diff";
import { FailureError, giveUp, type Failure } from "@/core/kit/outcome";
import { PassingFailure } from "../outside/fetch-safely";
import { settings } from "../settings";

/** A message that fails is sent this often, each time after a longer pause. */
const TRIES = 5;
/** A channel that is still working on a message is asked again after so long, and given up on after so long, milliseconds. */
const ASK_AGAIN_MS = 500;
const MOST_PATIENCE_MS = 10 * 60_000;

/** What became of a dispatch at the channel. */
export interface Delivered {
  answers: Map<string, Answer>;
  /** Why the rest was not answered; null where all was. */
  brokeOff: Failure | null;
}

/**
 * Sends a diff to a channel, message by message, and gathers what became of each record. Where the channel is gone half-way,
 * what it answered till then counts, and the rest was not sent as far as is known: sent again, a channel takes it once.
 * @param key names the dispatch; each message has one of its own below it, the same when the dispatch is tried again
 * @param step told how many changes were answered
 */
export async function deliver(
  channel: Channel,
  key: string,
  diff: Diff<AccountRecord>,
  step: (done: number) => Promise<void>,
): Promise<Delivered> {
  const changes = inOrder(diff);
  const answers = new Map<string, Answer>();
  for (let from = 0; from < changes.length; from += MOST_CHANGES) {
    const part = changes.slice(from, from + MOST_CHANGES);
    try {
      const answered = await takeSurely(channel, `${key}/${from / MOST_CHANGES}`, part, () => step(answers.size));
      for (const answer of answered) answers.set(answer.key, answer);
      await step(answers.size);
    } catch (error) {
      if (!(error instanceof FailureError)) throw error;
      return { answers, brokeOff: error.failure };
    }
  }
  return { answers, brokeOff: null };
}

/** Sends one message until it is answered. Whether one that failed had arrived is asked before it is sent again. */
async function takeSurely(
  channel: Channel,
  key: string,
  changes: Change[],
  wait: () => Promise<void>,
): Promise<Answer[]> {
  for (let tried = 1; ; tried++) {
    try {
      const known = tried === 1 ? undefined : await channel.answersTo(key);
      const answers = known === undefined ? await channel.take(key, changes) : known;
      return answers ?? (await late(channel, key, wait));
    } catch (error) {
      if (!(error instanceof PassingFailure) || tried === TRIES) throw error;
      await wait();
      await sleep(Math.min(settings().HOTSHELF_RETRY_MS, 1000) * 2 ** (tried - 1));
    }
  }
}

/** Asks for the answers to a message that the channel still works on. */
async function late(channel: Channel, key: string, wait: () => Promise<void>): Promise<Answer[]> {
  const began = Date.now();
  for (let pause = ASK_AGAIN_MS; Date.now() - began < MOST_PATIENCE_MS; pause = Math.min(10_000, pause * 1.5)) {
    await sleep(pause);
    await wait();
    const answers = await channel.answersTo(key);
    if (answers) return answers;
    if (answers === undefined)
      giveUp(
        "channel-forgot",
        "The channel took a message to work on and knows nothing of it any more.",
        "Send again.",
      );
  }
  return giveUp(
    "channel-late",
    "The channel did not answer within ten minutes.",
    "Send again: what it took meanwhile it takes once.",
  );
}

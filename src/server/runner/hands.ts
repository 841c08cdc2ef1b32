import { fork, type ChildProcess } from "node:child_process";
import { once } from "node:events";
import type { Failure } from "@/core/kit/outcome";
import type { JobKind } from "../jobs/jobs";
import { childEnv, memoryOf } from "../process-watch";
import { programOf } from "../programs";

/** What a hand is asked to do: run a job, or take back what one that was broken off had half done. */
export interface HandTask {
  slug: string;
  job: string;
  rollsBack: boolean;
  /** Why the job ends for good once it is rolled back; null lets it wait again. */
  failure: Failure | null;
}

/** What a hand says. */
export interface HandWord {
  word: "ready" | "beat" | "ended";
}

/** How often a hand gives a sign of life, ms. */
export const BEAT_EVERY = 1000;

/** What ends a job that does not end by itself. Times in ms, memory in bytes. */
export interface Limits {
  memory: number;
  /** No sign of life for so long. */
  quiet: number;
  /** From its start. */
  deadline: (kind: JobKind) => number;
  /** After a person asked it to stop. */
  grace: number;
}

/** Why a hand's work ended before its time. */
export type Loss = "memory" | "quiet" | "deadline" | "cancelled" | "stopped" | "broke";

const LOOK_EVERY = 500;
/** A process that is not there after so long, ms, will never be. */
const MOST_START = 120_000;
/** A hand that holds more than this afterwards is not used again. */
const STILL_FRESH = 700 * 1024 * 1024;
/** Hands kept ready for the next job. */
const MOST_IDLE = 2;
const MINUTE = 60_000;

/** The longest that a job of a kind may take, in minutes: many times what half a million items need. */
const MOST_MINUTES: Partial<Record<JobKind, number>> = {
  "feed-import": 180,
  "report-import": 180,
  "link-check": 720,
  "market-run": 720,
  "market-compare": 240,
};
const USUAL_MINUTES = 60;

/** The limits of a running installation. @param memoryMb the most memory of one job */
export function usualLimits(memoryMb: number): Limits {
  return {
    memory: memoryMb * 1024 * 1024,
    quiet: 3 * MINUTE,
    deadline: (kind) => (MOST_MINUTES[kind] ?? USUAL_MINUTES) * MINUTE,
    grace: 10_000,
  };
}

interface Hand {
  process: ChildProcess;
  /** Opens once it can be asked. */
  ready: Promise<unknown>;
  lastSlug: string | null;
}

/** The processes in which jobs are done, started when needed and used again while they are fresh. */
export class Hands {
  private readonly idle: Hand[] = [];
  private readonly busy = new Map<Hand, (why: Loss) => void>();
  private isClosed = false;

  /** @param handlers path of the module with `jobHandlers`, from the project's folder */
  constructor(
    private readonly handlers: string,
    private readonly limits: Limits,
  ) {}

  /** Has one hand started before it is needed. */
  warm(): void {
    this.idle.push(this.start());
  }

  /**
   * Has a hand do a task.
   * @param isCancelled asked twice a second whether a person wants the job to stop; where it can't tell, nobody does
   * @returns why it was broken off, or null when the hand came to its end
   */
  async do(task: HandTask, kind: JobKind, isCancelled: () => Promise<boolean>): Promise<Loss | null> {
    const hand = this.take(task.slug);
    const loss = await this.watch(hand, task, kind, isCancelled);
    this.busy.delete(hand);
    if (loss !== null) {
      if (hand.process.exitCode === null && hand.process.signalCode === null) {
        const gone = once(hand.process, "exit");
        hand.process.kill("SIGKILL");
        await gone;
      }
      return loss;
    }
    const isFresh = (await memoryOf(hand.process.pid!)) < STILL_FRESH;
    if (isFresh && !this.isClosed && this.idle.length < MOST_IDLE) this.idle.push(hand);
    else hand.process.kill("SIGKILL");
    return null;
  }

  /** Ends all hands; what they were at is left as `stopped`. */
  close(): void {
    this.isClosed = true;
    for (const { process } of this.idle.splice(0)) process.kill("SIGKILL");
    for (const breakOff of this.busy.values()) breakOff("stopped");
  }

  private take(slug: string): Hand {
    // One that worked for the workspace before still has its catalogue in memory.
    const at = Math.max(
      0,
      this.idle.findIndex((hand) => hand.lastSlug === slug),
    );
    const hand = this.idle.splice(at, 1)[0] ?? this.start();
    hand.lastSlug = slug;
    return hand;
  }

  private start(): Hand {
    const main = programOf("src/server/runner/hand-main.ts");
    const heapMb = Math.round(this.limits.memory / (1024 * 1024));
    const made = fork(main.file, [programOf(this.handlers).file], {
      execArgv: [`--max-old-space-size=${heapMb}`, ...main.execArgv],
      stdio: ["ignore", "inherit", "inherit", "ipc"],
      env: childEnv(),
    });
    const hand: Hand = { process: made, ready: untilWord(made, "ready"), lastSlug: null };
    made.on("exit", () => {
      const at = this.idle.indexOf(hand);
      if (at >= 0) this.idle.splice(at, 1);
    });
    // A hand that can't be started at all says so here and never exits; whoever waits for it is told by its silence.
    made.on("error", () => made.kill("SIGKILL"));
    return hand;
  }

  private watch(hand: Hand, task: HandTask, kind: JobKind, isCancelled: () => Promise<boolean>): Promise<Loss | null> {
    return new Promise((resolve) => {
      const { limits } = this;
      const { process } = hand;
      let isReady = false;
      let started = 0;
      let quiet = 0;
      let took = 0;
      let cancelledFor: number | null = null;
      let looked = performance.now();
      const end = (loss: Loss | null) => {
        clearInterval(timer);
        process.removeListener("message", hear);
        process.removeListener("exit", broke);
        resolve(loss);
      };
      const broke = () => end("broke");
      const hear = (said: unknown) => {
        quiet = 0;
        if ((said as HandWord).word === "ended") end(null);
      };
      const look = async () => {
        // Time that this process itself was held up does not count against the hand.
        const step = Math.min(performance.now() - looked, 4 * LOOK_EVERY);
        looked = performance.now();
        if (isReady) {
          quiet += step;
          took += step;
        } else started += step;
        if (cancelledFor !== null) cancelledFor += step;
        else if (!task.rollsBack && (await isCancelled().catch(() => false))) cancelledFor = 0;
        if (started > MOST_START) end("broke");
        else if (quiet > limits.quiet) end("quiet");
        else if (took > limits.deadline(kind)) end("deadline");
        else if (cancelledFor !== null && cancelledFor > limits.grace) end("cancelled");
        else if ((await memoryOf(process.pid ?? 0)) > limits.memory) end("memory");
      };
      const timer = setInterval(() => void look(), LOOK_EVERY);
      this.busy.set(hand, end);
      process.on("message", hear);
      process.on("exit", broke);
      void hand.ready.then(() => {
        isReady = true;
        if (process.connected) process.send(task);
      });
    });
  }
}

function untilWord(process: ChildProcess, word: HandWord["word"]): Promise<void> {
  return new Promise((resolve) => {
    const hear = (said: unknown) => {
      if ((said as HandWord).word !== word) return;
      process.removeListener("message", hear);
      resolve();
    };
    process.on("message", hear);
  });
}

import { fork, type ChildProcess } from "node:child_process";
import { open, stat } from "node:fs/promises";
import type { FeedFormat } from "@/core/catalogue/detect";
import { FailureError, type Failure } from "@/core/kit/outcome";
import { childEnv, memoryOf } from "../../process-watch";
import { programOf } from "../../programs";
import type { ReadingChoice } from "./open-feed";

/** What a first look into a file finds: what it is, its columns, and its first rows. */
export interface Look {
  format: FeedFormat;
  encoding: string | null;
  delimiter: string | null;
  compressed: boolean;
  parts: string[];
  part: string | null;
  headerRow: number | null;
  headings: string[];
  repeated: string[];
  samples: string[][];
}

/** What a looker is asked, and what it answers. */
export interface LookQuestion {
  file: string;
  choice: ReadingChoice;
}
export type LookAnswer = { look: Look } | { failure: Failure } | { broken: string };

/** Rows looked at. */
export const LOOK_SAMPLES = 200;

/** What one look may take: memory of its process, bytes; and time, ms. Larger or slower than this is no honest file. */
const MOST_MEMORY = 560 * 1024 * 1024;
const MOST_TIME = 25_000;
/** A looker that holds more than this afterwards is not used again. */
const STILL_FRESH = 250 * 1024 * 1024;
const WATCH_EVERY = 40;

let idle: ChildProcess | null = null;

/** A process that looks into files: damaged or crafted ones can stop it and nothing else. */
function startLooker(): ChildProcess {
  const main = programOf("src/server/catalogue/reading/look-main.ts");
  const looker = fork(main.file, [], {
    execArgv: ["--max-old-space-size=480", ...main.execArgv],
    // An engine out of memory writes pages of its own; what happened is said in a sentence instead.
    stdio: ["ignore", "inherit", "ignore", "ipc"],
    serialization: "advanced",
    env: childEnv(),
  });
  looker.unref();
  looker.channel?.unref();
  looker.on("exit", () => {
    if (idle === looker) idle = null;
  });
  return looker;
}

/**
 * Looks into a file of unknown origin in a process of its own, with limits on memory and time.
 * @throws FailureError when it is nothing that can be read, or goes beyond the limits
 */
export async function lookInto(file: string, choice: ReadingChoice): Promise<Look> {
  const looker = idle ?? startLooker();
  idle = null;
  const { answer, isLost } = await ask(looker, { file, choice });
  if (!isLost) {
    if (idle === null && (await memoryOf(looker.pid!)) < STILL_FRESH) idle = looker;
    else looker.kill("SIGKILL");
  }
  if ("look" in answer) return answer.look;
  if ("failure" in answer) throw new FailureError(answer.failure);
  throw new FailureError({
    code: "feed-unreadable",
    message: `This file can't be looked into: ${answer.broken} Nothing was taken in.`,
    hint: "It is damaged, or made in a way no feed is. Export it again; a plain CSV is read in any size.",
  });
}

function ask(looker: ChildProcess, question: LookQuestion): Promise<{ answer: LookAnswer; isLost: boolean }> {
  return new Promise((resolve) => {
    const began = Date.now();
    const end = (answer: LookAnswer, isLost: boolean) => {
      clearInterval(watch);
      looker.removeAllListeners("message");
      looker.removeListener("exit", lost);
      looker.removeListener("error", lost);
      if (isLost) looker.kill("SIGKILL");
      resolve({ answer, isLost });
    };
    const lost = () => end({ broken: "reading its first rows takes more memory than a feed may." }, true);
    const watch = setInterval(() => {
      if (Date.now() - began > MOST_TIME) {
        end({ broken: `its first rows were not read within ${MOST_TIME / 1000} seconds.` }, true);
        return;
      }
      void memoryOf(looker.pid!).then((bytes) => {
        if (bytes > MOST_MEMORY) lost();
      });
    }, WATCH_EVERY);
    looker.on("message", (answer) => end(answer as LookAnswer, false));
    looker.on("exit", lost);
    // A looker that could not be started at all never exits.
    looker.on("error", lost);
    looker.send(question);
  });
}

/** Looks first where a file is of a kind that can unfold while it is read; delimited text is read line by line as it is. */
export async function lookBeforeReading(file: string, choice: ReadingChoice): Promise<void> {
  const { size } = await stat(file);
  const handle = await open(file);
  try {
    const head = Buffer.alloc(Math.min(size, 64));
    await handle.read(head, 0, head.length, 0);
    const isText = head.every((byte) => byte >= 9) && !/^\s*(?:\uFEFF|ï»¿)?\s*[<{[]/.test(head.toString("latin1"));
    if (isText && size > 0) return;
  } finally {
    await handle.close();
  }
  await lookInto(file, choice);
}

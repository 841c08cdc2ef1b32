import { beforeEach, describe, expect, it } from "vitest";
import { ACTS, editSchema, type ActName } from "@/core/account/acts";
import type { AccountRecord } from "@/core/account/records";
import { sameValue } from "@/core/kit/diff";
import { randomFrom } from "@/core/kit/random";
import type { Database } from "@/db/client";
import { clickWorths } from "../goals/click-worths";
import { storeAdDay } from "../results/ad-day.testing";
import { takeBackDispatch } from "../dispatch/dispatches";
import { putBack, removeFromBasket } from "../dispatch/take-out";
import { importFeed, liveStructure, plannedStructure, runToEnd, runWaiting, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { ACT_EXAMPLES, ACT_FEED, actAccount } from "./act-examples.testing";
import { addRecords } from "./commit";
import { editAccount } from "./edits";

/**
 * One act after another, and every way back: what was set by hand survives whatever is taken back beside it. A few pairs in
 * every run, all of them with HOTSHELF_PAIRS=all.
 */

const names = Object.keys(ACTS) as ActName[];
const everyPair = names.flatMap((a) => names.filter((b) => b !== a).map((b): [ActName, ActName] => [a, b]));
const day = new Date().toISOString().slice(0, 10);
const random = randomFrom("pairs of acts", day);
const some = Array.from({ length: 24 }, () => everyPair[Math.floor(random() * everyPair.length)]!);
const pairs = process.env["HOTSHELF_PAIRS"] === "all" ? everyPair : some;

let db: Database;
let info: WorkspaceInfo;
type State = Record<string, AccountRecord>;

const act = async (name: ActName) => {
  const edit = editSchema.parse({ action: name, ...ACT_EXAMPLES[name].edit });
  return editAccount(db, "ann", null, edit, info.currency, clickWorths);
};

async function send(): Promise<number> {
  const job = await runToEnd(db, info, "dispatch", { takesBack: null });
  expect(job.error).toBeNull();
  return (job.result as { dispatch: number }).dispatch;
}

/** Takes a dispatch back where that is allowed. @returns the dispatch that did, or null where it was refused */
async function takeBack(id: number): Promise<number | null> {
  const asked = await takeBackDispatch(db, id);
  if (!asked.ok) return null;
  await runWaiting(db, info);
  const { rows } = await db.$client.execute("SELECT max(id) FROM dispatches");
  return Number(rows[0]![0]);
}

const changedBetween = (from: State, to: State) =>
  [...new Set([...Object.keys(from), ...Object.keys(to)])].filter((key) => !sameValue(from[key], to[key]));

beforeEach(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, ACT_FEED);
  await runWaiting(db, info);
  // What clicks are worth has to be known, for the act that bids by it.
  await storeAdDay({ db }, 20_700, [[1, 400, 80_000, 9_000]]);
  await addRecords(db, actAccount(), "tester", "start");
  await send();
});

describe("an act after another one", () => {
  it.each(pairs)(`%s, then %s, and back (${day})`, async (first, second) => {
    const start = await liveStructure(db);
    expect((await act(first)).ok).toBe(true);
    let a = await send();
    const between = await liveStructure(db);
    const made = await act(second);
    const planned = await plannedStructure(db);
    // An act that has nothing left to do after the other one, or can't be done any more, changes nothing.
    if (!made.ok || sameValue(planned, between)) {
      expect(planned).toEqual(between);
    } else {
      const out = await removeFromBasket(db, info, "ann", { keys: "all" });
      if (!out.ok) throw new Error(out.error.message);
      expect(await plannedStructure(db)).toEqual(between);
      expect((await putBack(db, "ann", out.value.undo!)).ok).toBe(true);
      expect(await plannedStructure(db)).toEqual(planned);
      const b = await send();
      const both = await liveStructure(db);
      expect(both).toEqual(planned);
      // Taking the first back leaves what the second did, or is refused where the two met.
      const byFirst = changedBetween(start, between);
      const bySecond = new Set(changedBetween(between, both));
      const without = await takeBack(a);
      const now = await liveStructure(db);
      if (without === null) expect(now).toEqual(both);
      else {
        expect(byFirst.filter((key) => bySecond.has(key))).toEqual([]);
        for (const key of byFirst) expect(now[key]).toEqual(start[key]);
        for (const key of bySecond) expect(now[key]).toEqual(both[key]);
        const again = await takeBack(without);
        expect(again).not.toBeNull();
        a = again!;
      }
      expect(await liveStructure(db)).toEqual(both);
      expect(await takeBack(b)).not.toBeNull();
    }
    expect(await liveStructure(db)).toEqual(between);
    expect(await takeBack(a)).not.toBeNull();
    expect(await liveStructure(db)).toEqual(start);
  });
});

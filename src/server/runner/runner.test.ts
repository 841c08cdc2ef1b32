import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, describe, expect, it } from "vitest";
import { enqueueJob } from "../jobs/jobs";
import { testWorkspace } from "../testing";
import type { Hands, HandTask } from "./hands";
import { Runner } from "./runner";

const done: string[] = [];
const hands = {
  do: async ({ job }: HandTask) => {
    done.push(job);
    return null;
  },
  close: () => {},
};
const runner = new Runner("test", hands as unknown as Hands);
afterAll(() => runner.stop());

async function turns(many: number): Promise<void> {
  for (let i = 0; i < many; i++) {
    await runner.round();
    await Promise.race([runner.wait(), sleep(120)]);
  }
}

describe("the runner", () => {
  it("asks nothing of a workspace in which nothing happens, and takes up a job once it is written", async () => {
    const { db } = await testWorkspace();
    let asked = 0;
    const real = db.$client.execute.bind(db.$client) as (...statement: unknown[]) => Promise<never>;
    db.$client.execute = (...statement: unknown[]) => {
      asked++;
      return real(...statement);
    };
    await turns(1);
    expect(asked).toBeGreaterThan(0);
    // What made the workspace is told of for a while.
    let quiet = 0;
    for (let i = 0; i < 150 && quiet < 8; i++) {
      asked = 0;
      await turns(1);
      quiet = asked === 0 ? quiet + 1 : 0;
    }
    expect(quiet).toBe(8);
    const { id } = await enqueueJob(db, "shelves", {});
    for (let i = 0; i < 40 && done.length === 0; i++) await turns(1);
    expect(done).toEqual([id]);
  });
});

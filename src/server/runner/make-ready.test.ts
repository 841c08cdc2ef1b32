import { expect, it } from "vitest";
import { enqueueIn, enqueueJob, findJob, newJob } from "../jobs/jobs";
import { claimJob, runJob } from "../jobs/work";
import { noteFirstAsk } from "../read/first-asks";
import { recall } from "../read/memo";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import { jobHandlers } from "./handlers";

const FEED = "id,title,price\n1,Rake,5\n2,Hoe,6\n";

it("asks what pages asked first, leaves out what is refused, and has it at hand after that", async () => {
  const { db, info } = await testWorkspace();
  const { id } = await importFeed({ db, info }, FEED);
  expect((await findJob(db, id))?.state).toBe("done");
  // What a reading brings along comes first.
  await runWaiting(db, info);
  for (const path of ["fields", "till?days=30", "items?sort=-cost&limit=200", "no-such-thing", "items?limit=none"]) {
    await noteFirstAsk(db, path);
  }
  const job = await runToEnd(db, info, "make-ready", {});
  expect(job).toMatchObject({ state: "done", result: { asked: 3 } });
  const { rows } = await db.$client.execute("SELECT current_revision FROM feeds");
  expect(await recall(db, "fields", [Number(rows[0]![0])])).toMatchObject(
    expect.arrayContaining([expect.objectContaining({ name: "title", filled: 2 })]),
  );
});

it("lets other work of the workspace pass, and comes again behind it; what waits for another day holds nothing up", async () => {
  const { db, info } = await testWorkspace();
  await noteFirstAsk(db, "fields");
  const { id } = await enqueueJob(db, "make-ready", {});
  const job = await claimJob(db, "test", { id });
  await enqueueJob(db, "shelves", {});
  await runJob(db, info, jobHandlers, job!);
  expect((await findJob(db, id))!.result).toEqual({ asked: 0 });
  expect((await claimJob(db, "test"))!.kind).toBe("shelves");
  const again = (await claimJob(db, "test"))!;
  expect(again.kind).toBe("make-ready");
  // A dispatch for next week.
  await enqueueIn(db.$client, { ...newJob("dispatch", {}), notBefore: Date.now() + 7 * 86_400_000 });
  await runJob(db, info, jobHandlers, again);
  expect((await findJob(db, again.id))!.result).toEqual({ asked: 1 });
});

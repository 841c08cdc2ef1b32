import { beforeEach, describe, expect, it } from "vitest";
import { editSchema } from "@/core/account/acts";
import { encodeRollup, encodeStore } from "@/core/results/day-columns";
import { rollUp, storeColumns } from "@/core/results/roll-up-days";
import { campaignDays, dayRollups } from "@/db/schema";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { editAccount } from "../account/edits";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { asksOfToday } from "./asks";

const FEED = "id,title,price,availability\n1,Oak rake,9.00,in stock\n2,Ash rake,9.00,out of stock\n";
let db: Database;
let info: WorkspaceInfo;

const edit = async (intent: object) => {
  const done = await editAccount(db, "ann", null, editSchema.parse(intent), "EUR");
  if (!done.ok) throw new Error(done.error.message);
};

beforeEach(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "A" }, ["1", "2"], 500)));
  await runToEnd(db, info, "dispatch", { takesBack: null });
});

/** A day of results as the channel reports it: what item 2 cost, and the hour at which the campaign's money was gone. */
async function dayOf(day: number, dryAt: number | null, cost: number) {
  await db.$client.execute(
    "INSERT OR IGNORE INTO codes (no, kind, text) VALUES (1, 'campaign', 'c:a'), (2, 'adGroup', 'g')",
  );
  const line = {
    campaign: 1,
    adGroup: 2,
    itemNo: 2,
    impressions: 90,
    clicks: 9,
    cost,
    orders: 0,
    units: 0,
    revenue: 0,
  };
  const ads = Buffer.from(encodeRollup(rollUp([line])).buffer);
  await db.insert(dayRollups).values({ day, ads, store: Buffer.from(encodeStore(storeColumns([])).buffer) });
  await db.insert(campaignDays).values({ day, campaign: 1, budget: 10_000, cost, dryAt });
  await db.$client.execute("UPDATE workspace SET results_version = results_version + 1");
}

describe("what asks for a decision today", () => {
  it("is nothing where nothing is due", async () => {
    expect(await asksOfToday(db, info)).toEqual({
      ...{
        alerts: [],
        pausesDue: [],
        exclusionsDue: { all: 0, waiting: 0 },
        placementsDue: null,
        experimentsOver: [],
        runDry: [],
        faults: [],
      },
    });
  });

  it("are pauses and exclusions whose day has come, those in the basket too", async () => {
    await edit({ action: "status", keys: ["c:a"], status: "paused", pausedFor: "sold out", reviewOn: "2026-01-01" });
    await edit({ action: "exclude", items: ["1"], reason: "wasteful", reviewOn: "2026-01-01" });
    await edit({ action: "exclude", items: ["2"], reason: "wasteful", reviewOn: "2099-01-01" });
    const { pausesDue, exclusionsDue } = await asksOfToday(db, info);
    expect(pausesDue).toEqual([{ key: "c:a", name: "A", reviewOn: "2026-01-01", pausedFor: "sold out" }]);
    expect(exclusionsDue).toEqual({ all: 1, waiting: 1 });
    await runToEnd(db, info, "dispatch", { takesBack: null });
    expect((await asksOfToday(db, info)).exclusionsDue).toEqual({ all: 1, waiting: 0 });
    await edit({ action: "status", keys: ["c:a"], status: "on" });
    expect((await asksOfToday(db, info)).pausesDue).toEqual([]);
  });

  it("are campaigns that run dry on most days, and what is paid for items that nobody can buy", async () => {
    for (const [day, dryAt] of [
      [20_000, 18],
      [20_001, null],
      [20_002, 20],
      [20_003, 19],
    ] as const) {
      await dayOf(day, dryAt, 2_500);
    }
    const { runDry, faults } = await asksOfToday(db, info);
    // Three of the four days there are, at 18, 20 and 19 o'clock.
    expect(runDry).toEqual([{ key: "c:a", name: "A", days: 3, of: 4, hour: 19 }]);
    expect(faults).toEqual([{ code: "soldout-spend", label: "Sold out and still paid for", items: 1, cost: 10_000 }]);
    await edit({ action: "status", keys: ["c:a"], status: "paused" });
    await runToEnd(db, info, "dispatch", { takesBack: null });
    expect((await asksOfToday(db, info)).runDry).toEqual([]);
  });
});

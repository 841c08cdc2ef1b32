import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { dayAt, formatDay, parseDay } from "@/core/kit/days";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { chooseChannel } from "../channel/choice";
import { hostChannel } from "../channel/host";
import { closeAll, listen } from "../channel/http-testing";
import { MemoryChannel } from "../channel/memory-channel";
import { listJobs } from "../jobs/jobs";
import { forgetSettings } from "../settings";
import { addToBasket, importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import { queueDueReports } from "./channel-reports";

beforeAll(() => {
  process.env["HOTSHELF_PRIVATE_ADDRESSES"] = "true";
  forgetSettings();
});
afterAll(() => {
  closeAll();
  delete process.env["HOTSHELF_PRIVATE_ADDRESSES"];
  forgetSettings();
});

describe("reports of a channel", () => {
  it("are asked for once a day and read in like files: the last days again, and each day counted once", async () => {
    const { db, info } = await testWorkspace();
    await importFeed({ db, info }, "id,title,price\nI1,Oak Rake,20\n");
    const asked: string[] = [];
    let late = 0;
    const item = (from: string, to: string) => {
      asked.push(`${from} to ${to}`);
      const lines = ["day,campaign,ad_group,item_id,impressions,clicks,spend,orders,units,sales"];
      for (let day = Math.max(parseDay(from), parseDay(to) - 2); day <= parseDay(to); day++) {
        lines.push(`${formatDay(day)},Feed,Feed,I1,100,10,2.50,${1 + late},${1 + late},${20 * (1 + late)}.00`);
      }
      return lines.join("\n");
    };
    const term = () => "day,campaign,ad_group,target,term,impressions,clicks,spend,orders,units,sales\n";
    const platform = new MemoryChannel({}, [], "Platform", { item, term });
    const address = await listen(hostChannel(platform, "t"));
    await chooseChannel(db, { kind: "http", address, token: "t" });
    await addToBasket(db, diffRecords({}, testCampaign("c:f", { name: "Feed" }, ["I1"], 900)));
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const jobsOf = async (kind: string) => (await listJobs(db)).filter((job) => job.kind === kind);
    await queueDueReports(db, info);
    await queueDueReports(db, info);
    expect(await jobsOf("channel-reports")).toHaveLength(1);
    await runWaiting(db, info);
    // The term report had no rows, so nothing of it was read.
    expect((await jobsOf("report-import")).map(({ state }) => state)).toEqual(["done"]);
    const sums = async () =>
      (await db.$client.execute("SELECT count(*), sum(cost), sum(orders), sum(revenue) FROM item_facts")).rows[0];
    expect(Array.from((await sums())!)).toEqual([3, 7_500, 3, 60_000]);
    await queueDueReports(db, info);
    expect(await jobsOf("channel-reports")).toHaveLength(1);
    // A day on, more orders have come in: the same days are told anew and counted once.
    late = 1;
    await db.$client.execute("UPDATE channel_state SET reports_on = '2020-01-01'");
    await queueDueReports(db, info);
    await runWaiting(db, info);
    expect(Array.from((await sums())!)).toEqual([3, 7_500, 6, 120_000]);
    const today = dayAt(Date.now(), info.timeZone);
    const until = formatDay(today - 1);
    expect(asked).toEqual([`${formatDay(today - 90)} to ${until}`, `${formatDay(today - 14)} to ${until}`]);
  });
});

import { parseDay } from "@/core/kit/days";
import { diffRecords } from "@/core/kit/diff";
import { toCsv } from "@/core/dispatch/csv";
import { describe, expect, it } from "vitest";
import { testCampaign } from "@/core/market/test-shop";
import { proposeReportMapping } from "@/core/results/reports/report-mapping";
import { addToBasket, feedFile, runToEnd } from "../../testing";
import { newNames } from "./new-names";
import { exportReport } from "./reports";
import { look, read, shop, type Workspace } from "./testing";

const DAY = "2026-03-04";
const NEXT = "2026-03-05";
const spends = async (workspace: Workspace, query: object) =>
  (await look(workspace, query)).lines.map(({ name, sums }) => [name, sums.cost]).sort();

describe("what reports say of campaigns, targets and placements", () => {
  const TERMS = `Day,Campaign,Campaign type,Ad type,Keyword,Match type,Search term,Clicks,Spend
${DAY},Hoses,Search,Text ad,hose,Exact match,garden hose,3,1.50
${DAY},Hoses,Search,Text ad,hose,Broad,cheap hose,5,2.00
${DAY},Hoses,Search,Text ad,,,pump,1,0.25
${DAY},Rakes,Items,Item ad,rake,PHRASE,leaf rake,2,4.00
`;

  it("are levels and splits, keywords told apart by their match type", async () => {
    const workspace = await shop();
    await read(workspace, "term", TERMS);
    expect(await spends(workspace, { level: "target" })).toEqual([
      ["(not named)", 250],
      ["hose (broad)", 2_000],
      ["hose (exact)", 1_500],
      ["rake (phrase)", 4_000],
    ]);
    expect(await spends(workspace, { level: "matchType" })).toEqual([
      ["(no keyword)", 250],
      ["broad", 2_000],
      ["exact", 1_500],
      ["phrase", 4_000],
    ]);
    expect(await spends(workspace, { level: "adKind" })).toEqual([
      ["Item ad", 4_000],
      ["Text ad", 3_750],
    ]);
    const split = await look(workspace, { level: "campaignKind", split: "matchType" });
    expect(split.lines.map(({ name, splitName, sums }) => `${name}/${splitName}/${sums.cost}`).sort()).toEqual([
      "Items/phrase/4000",
      "Search/(no keyword)/250",
      "Search/broad/2000",
      "Search/exact/1500",
    ]);
    const within = JSON.stringify([{ level: "matchType", key: "exact" }]);
    expect(await spends(workspace, { level: "term", within })).toEqual([["garden hose", 1_500]]);
  });

  it("are one kind however they are spelt, in one file and in the next", async () => {
    const workspace = await shop();
    const head = "Day,Campaign,Placement,Placement type,Impressions,Clicks,Spend";
    await read(
      workspace,
      "placement",
      `${head}\n${DAY},Hoses,a.example,Site,90,3,1.50\n${DAY},Hoses,b.example,site,90,5,2.00\n`,
    );
    await read(
      workspace,
      "placement",
      `${head}\n${NEXT},Hoses,c.example, SITE ,90,1,0.25\n${NEXT},Hoses,d.example,App,90,1,1.00\n`,
    );
    expect(await spends(workspace, { level: "placementKind" })).toEqual([
      ["App", 1_000],
      ["Site", 3_750],
    ]);
  });

  it("come out again as they went in", async () => {
    const [workspace, other] = [await shop(), await shop()];
    await read(workspace, "term", TERMS);
    const day = parseDay(DAY);
    const out = await exportReport(workspace.db, "term", day, day);
    if (!out.ok) throw new Error(out.error.message);
    await read(other, "term", toCsv(out.value.headings, out.value.rows));
    const again = await exportReport(other.db, "term", day, day);
    expect(again.ok && again.value).toEqual(out.value);
    expect(await spends(other, { level: "matchType" })).toEqual(await spends(workspace, { level: "matchType" }));
  });

  it("go by the account for what it runs: its kinds, and its own keywords", async () => {
    const workspace = await shop();
    const account = testCampaign("c:k", { name: "Words", kind: "keyword" }, ["001"], 900, [
      { type: "keyword", text: "rake", match: "exact" },
    ]);
    await addToBasket(workspace.db, diffRecords({}, account));
    await runToEnd(workspace.db, workspace.info, "dispatch", { takesBack: null });
    const group = Object.values(account).find(({ type }) => type === "adGroup")!;
    const name = "name" in group ? group.name : "";
    const file = `Day,Campaign,Campaign type,Ad group,Keyword,Match type,Search term,Clicks,Spend\n${DAY},Words,Whatever,${name},Rake,Exact,rakes,3,1.50\n`;
    await read(workspace, "term", file);
    const { lines } = await look(workspace, { level: "target" });
    const keyword = Object.values(account).find(({ type }) => type === "keyword")!;
    expect(lines.map(({ key }) => key)).toEqual([keyword.key]);
    expect(await spends(workspace, { level: "campaignKind" })).toEqual([["keyword", 1_500]]);
    expect(await spends(workspace, { level: "matchType" })).toEqual([["exact", 1_500]]);
  });

  it("a placement is its address: two of one shown name are two", async () => {
    const workspace = await shop();
    const file = `Day,Campaign,Placement,Placement URL,Placement type,Impressions
${DAY},All,Family channel,a.example,Site,100
${DAY},All,Family channel,b.example,App,50
`;
    await read(workspace, "placement", file);
    const { lines } = await look(workspace, { level: "placement" });
    expect(lines.map(({ key, name }) => [key, name]).sort()).toEqual([
      ["a.example", "a.example (Family channel)"],
      ["b.example", "b.example (Family channel)"],
    ]);
    const kinds = await look(workspace, { level: "placementKind" });
    expect(kinds.lines.map(({ name, sums }) => [name, sums.impressions]).sort()).toEqual([
      ["App", 50],
      ["Site", 100],
    ]);
  });
});

describe("a campaign that was renamed", () => {
  const rows = (name: string, id: string, days: string[]) =>
    `Day,Campaign${id && ",Campaign ID"},Item ID,Clicks,Spend\n${days.map((day) => `${day},${name}${id && `,${id}`},001,5,1.00\n`).join("")}`;

  it("is one campaign where an ID is there, under its newest name", async () => {
    const workspace = await shop();
    await read(workspace, "item", rows("Spring", "77", [DAY]));
    await read(workspace, "item", rows("Summer", "77", [DAY, NEXT]));
    expect(await spends(workspace, { level: "campaign" })).toEqual([["Summer", 2_000]]);
    // Another campaign of that name is another one.
    await read(workspace, "item", rows("Summer", "78", [NEXT]));
    expect(await spends(workspace, { level: "campaign" })).toEqual([
      ["Summer", 1_000],
      ["Summer", 2_000],
    ]);
  });

  it("is asked about where there is none, and one campaign once it is said", async () => {
    const workspace = await shop();
    const { db } = workspace;
    const first = feedFile(rows("Spring", "", [DAY]));
    const mapping = proposeReportMapping("item", ["Day", "Campaign", "Item ID", "Clicks", "Spend"], []);
    expect(await newNames(db, first, null, mapping)).toEqual({ names: [], known: [] });
    await read(workspace, "item", rows("Spring", "", [DAY]));
    const second = rows("Summer", "", [DAY, NEXT]);
    expect(await newNames(db, feedFile(second), null, mapping)).toEqual({
      names: ["Summer"],
      known: [{ key: "Spring", name: "Spring" }],
    });
    await read(workspace, "item", second, { renamed: { Summer: "Spring" } });
    expect(await spends(workspace, { level: "campaign" })).toEqual([["Summer", 2_000]]);
    // A file that names it by its old name or its new one asks no more.
    expect((await newNames(db, feedFile(second), null, mapping)).names).toEqual([]);
    expect((await newNames(db, first, null, mapping)).names).toEqual([]);
  });
});

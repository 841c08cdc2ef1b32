import { beforeAll, describe, expect, it } from "vitest";
import { cellText } from "@/core/kit/columns";
import { formatDay } from "@/core/kit/days";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { structureCsv } from "@/core/dispatch/export";
import { Account, type Structure } from "@/core/account/account";
import { recordsOf } from "@/core/account/testing";
import { walkAccount } from "../account/serving";
import { plannedAccount, readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import type { Database } from "@/db/client";
import { putRecords, recordsSchema } from "../account/put-records";
import { addToBasket, liveStructure, plannedStructure, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import type { Comparison } from "./compare";
import { demandByCategory, demandInside, rateCards, rateCardSchema } from "../targets/rate-cards";
import { viewMarket } from "./look";
import { startMarketRun } from "./run-days";
import { loadWorld } from "./world";

const FEED = `id,title,price,brand,category\n${Array.from(
  { length: 20 },
  (_, i) => `I${i},${["Oak", "Steel"][i % 2]} Rake ${i},${5 + i},Maker${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"}`,
).join("\n")}\n`;
const ALL = Array.from({ length: 20 }, (_, i) => `I${i}`);
const FIRST = 20_700;

let workspace: { db: Database; info: WorkspaceInfo };
beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:f", { name: "Feed" }, ALL, 500)));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: FIRST + 9, seed: "s" });
});

describe("two versions side by side", () => {
  it("are the same while the basket is empty, and differ by what lies in it; nothing of it is kept", async () => {
    const { db, info } = workspace;
    const counted = async () => {
      const tables = ["item_facts", "store_sales", "market_state", "order_arrivals"];
      const sql = tables.map((table) => `(SELECT count(*) FROM ${table})`).join();
      return Object.values((await db.$client.execute(`SELECT ${sql}`)).rows[0]!);
    };
    const before = await counted();
    const compare = async () => {
      const job = await runToEnd(db, info, "market-compare", { days: 5 });
      expect(job.error).toBeNull();
      return job.result as Comparison;
    };
    const alike = await compare();
    expect([alike.from, alike.to]).toEqual([formatDay(FIRST + 10), formatDay(FIRST + 14)]);
    const [as, basket] = alike.versions;
    expect({ ...basket, name: "" }).toEqual({ ...as, name: "" });
    expect(as!.truth.revenue).toBeLessThanOrEqual(as!.bound.sales);
    expect(as!.found.sales).toBeLessThanOrEqual(as!.bound.sales);
    expect(as!.found.sales).toBeGreaterThan(0);
    expect(as!.days.reduce((sum, day) => sum + day.cost, 0)).toBe(as!.drawn.cost);

    const live = await liveStructure(db);
    const campaign = live["c:f"]!;
    if (campaign.type !== "campaign") throw new Error();
    const after: Structure = { ...live, "c:f": { ...campaign, slots: { "partner-media": 0 } } };
    await addToBasket(db, diffRecords(await plannedStructure(db), after));
    const other = await compare();
    expect(other.versions[0]!.drawn).toEqual(as!.drawn);
    // Partner media costs and hardly sells: without it the money goes further.
    expect(other.versions[1]!.truth.cost).toBeLessThan(as!.truth.cost);
    const share = ({ truth, bound }: typeof as & {}) => truth.revenue / bound.sales;
    expect(share(other.versions[1]!)).toBeGreaterThan(share(as!));
    expect(await counted()).toEqual(before);
    await db.$client.execute("DELETE FROM basket");
  });
});

describe("the world", () => {
  it("is told of by what a channel tells: demand, prices and listings by category, and nothing of why people buy", async () => {
    const view = await viewMarket(workspace.db, workspace.info);
    expect(view).toMatchObject({ lastDay: formatDay(FIRST + 9), nextDay: formatDay(FIRST + 10) });
    const { categories, sources } = await demandByCategory(workspace.db);
    expect(categories.map(({ name }) => name).sort()).toEqual(["Garden > Hoses", "Garden > Rakes"]);
    for (const { name, views, typicalCpc } of categories) {
      const { queries, listings, total } = await demandInside(workspace.db, name);
      expect(total).toBe(queries.length + listings.length);
      expect(queries.length).toBeGreaterThan(7);
      expect(listings.filter(({ role }) => role === "rival")).toHaveLength(5);
      expect(views).toBe(queries.reduce((sum, query) => sum + query.views!, 0));
      expect(typicalCpc).toBeGreaterThan(0);
    }
    const { rows } = await workspace.db.$client.execute("SELECT count(*) FROM channel_places WHERE kind <> 'item'");
    expect(sources).toMatchObject([{ origin: "channel", places: Number(rows[0]![0]) }]);
  });

  it("gives estimates for what is asked, and says where it has none", async () => {
    const asked = rateCardSchema.parse({ items: ["I1", "X"], keywords: [{ text: "hoses" }, { text: "zeppelin" }] });
    const cards = await rateCards(workspace.db, asked);
    expect(cards.items.map(({ card }) => card !== null)).toEqual([true, false]);
    expect(cards.keywords.map(({ card }) => card !== null)).toEqual([true, false]);
  });

  it("estimates a group by its items, each by its views", async () => {
    const { db } = workspace;
    const adGroup = (await readAccount(db)).planned.all("adGroup")[0]!.key;
    const { serving } = await walkAccount(db, (await readAccount(db)).planned);
    const { columns } = await loadCatalogue(db, ["id"]);
    const ids = serving
      .filter((found) => found.adGroup.key === adGroup)
      .flatMap(({ rows }) => [...rows].map((row) => cellText(columns["id"]!, row)));
    const cards = await rateCards(db, rateCardSchema.parse({ groups: [adGroup, "none"], items: ids }));
    const [group, none] = cards.groups;
    expect(none).toEqual({ key: "none", items: 0, card: null });
    expect(group!.items).toBe(ids.length);
    const own = cards.items.map(({ card }) => card!);
    const views = own.reduce((sum, card) => sum + card.monthlyViews!, 0);
    const paid = own.reduce((sum, card) => sum + card.monthlyViews! * card.typical, 0);
    expect(group!.card!.typical).toBe(Math.round(paid / views));
    expect(Math.min(...own.map(({ low }) => low!))).toBeLessThanOrEqual(group!.card!.low!);
  });

  it("knows newcomers by the reading they came with", async () => {
    const { db, info } = workspace;
    await importFeed(workspace, `${FEED}NEW,Oak Rake new,9,Maker1,Garden > Rakes\n`);
    const found = await loadWorld(db, info, Account.EMPTY);
    const since = [...found!.world.truth.since];
    expect(since.filter((day) => !Number.isNaN(day))).toHaveLength(1);
    expect(Number.isNaN(since.at(-1))).toBe(false);
  });
});

describe("records of any kind", () => {
  it("are checked, go into the basket, and are removed with all below them", async () => {
    const { db } = workspace;
    const put = Object.values(
      testCampaign("c:words", { kind: "keyword" }, ["I1"], 300, [{ type: "keyword", text: "hoses", match: "exact" }]),
    );
    const given = (more: object) => putRecords(db, "tester", null, recordsSchema.parse(more), "EUR");
    expect(await given({ put })).toMatchObject({ ok: true, value: { changes: put.length } });
    expect(recordsOf(await plannedStructure(db), "keyword")).toHaveLength(1);
    expect(structureCsv(await plannedAccount(db))).toMatch(/^keyword,c:words,.*hoses,exact,on/m);
    const keyword = put.find(({ type }) => type === "keyword")!;
    expect(await given({ put: [{ ...put[0]!, key: keyword.key }] })).toMatchObject({ error: { code: "record-type" } });
    expect(await given({ put: [keyword, keyword] })).toMatchObject({ error: { code: "record-twice" } });
    // A keyword in a feed campaign would aim at nothing; the checks say so before anything is sent.
    const misplaced = await given({ put: [{ ...keyword, key: "k:lost", adGroup: "g:c:f" }] });
    expect(misplaced.ok && misplaced.value.checks.filter(({ grave }) => grave).map(({ code }) => code)).toEqual([
      "target-kind",
    ]);
    expect(recordsSchema.safeParse({ put: [{ ...keyword, match: "fuzzy" }] }).success).toBe(false);
    await given({ remove: ["c:words", "k:lost"] });
    expect(await plannedStructure(db)).toEqual(await liveStructure(db));
  });
});

describe("a run", () => {
  it("begins on the day asked for, and never on one that has results", async () => {
    const { db, info } = workspace;
    expect(await startMarketRun(db, info, { days: 3, from: formatDay(FIRST + 9) })).toMatchObject({
      ok: false,
      error: { code: "market-day-past", hint: `Begin on ${formatDay(FIRST + 10)} or later.` },
    });
    const later = await startMarketRun(db, info, { days: 2, from: formatDay(FIRST + 20) });
    expect(later.ok).toBe(true);
  });
});

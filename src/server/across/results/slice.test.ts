import { beforeAll, describe, expect, it } from "vitest";
import { formatDay } from "@/core/kit/days";
import { METRICS, type MetricKey } from "@/core/kit/metrics";
import { SEEN_BY } from "@/core/market/arrivals";
import { testCampaign } from "@/core/market/test-shop";
import { LEVELS, sourceOf, SOURCES, type Level, type Source } from "@/core/results/levels";
import { seenShare } from "@/core/evidence/lag";
import type { Database } from "@/db/client";
import { importFeed, runAccount, testWorkspace } from "../../testing";
import type { WorkspaceInfo } from "../../workspaces";
import { loadLag } from "../../results/lag";
import { sliceSchema } from "./slice-query";
import { exportSlice, viewSlice, type Slice } from "./slice";

const FIRST = 20_700;
const DAYS = 110;
const LAST = FIRST + DAYS - 1;
const FEED = `id,title,price,brand,category\n${Array.from(
  { length: 30 },
  (_, i) =>
    `I${i},${["Oak", "Steel"][i % 2]} Rake ${i},${3 + i / 10},Maker${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"}`,
).join("\n")}\n`;

let workspace: { db: Database; info: WorkspaceInfo };
beforeAll(async () => {
  workspace = await testWorkspace();
  await importFeed(workspace, FEED);
  const all = Array.from({ length: 30 }, (_, i) => `I${i}`);
  const account = {
    ...testCampaign("c:f", { name: "Feed", dailyBudget: 900_000 }, all, 900),
    ...testCampaign("c:k", { name: "Words", kind: "keyword", serveOrder: 2 }, all, 1200, [
      { type: "keyword", text: "rakes", match: "broad" },
      { type: "keyword", text: "cheap hoses", match: "exact" },
      { type: "keyword", text: "zeppelin", match: "exact" },
    ]),
  };
  await runAccount(workspace, account, { from: FIRST, through: LAST, seed: "s" });
});

async function slice(asked: object): Promise<Slice> {
  const outcome = await viewSlice(workspace.db, workspace.info, sliceSchema.parse(asked));
  if (!outcome.ok) throw new Error(outcome.error.message);
  return outcome.value;
}

async function sql(text: string): Promise<number[][]> {
  const { rows } = await workspace.db.$client.execute(text);
  return rows.map((row) => Array.from({ length: Object.keys(row).length }, (_, i) => Number(row[i])));
}

const COUNTED = ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const;
const sums = (of: Slice["lines"][number]["sums"]) => COUNTED.map((key) => of[key]);
const TABLES: Record<Source, string> = {
  item: "item_facts",
  term: "term_facts",
  slot: "slot_facts",
  hour: "hour_facts",
  placement: "placement_facts",
};
const COLUMN: Partial<Record<Level, string>> = {
  campaign: "campaign",
  adGroup: "ad_group",
  item: "item_no",
  target: "target",
  term: "term",
  placement: "placement",
  slot: "slot",
  hour: "hour",
  day: "day",
};

describe("results by a level and a split", () => {
  const pairs = LEVELS.flatMap((level) => ["", ...LEVELS].map((split) => [level, split] as const)).filter(
    ([level, split]) => level !== split,
  );

  it.each(pairs)("%s by %j agree with SQL and add up to the total, or are refused", async (level, split) => {
    const source = sourceOf(split === "" ? [level] : [level, split as Level]);
    const asked = sliceSchema.parse({ level, split, days: 20, limit: 100_000 });
    const outcome = await viewSlice(workspace.db, workspace.info, asked);
    if (source === null) {
      expect(outcome).toMatchObject({ ok: false, error: { code: "results-not-divided" } });
      return;
    }
    if (!outcome.ok) throw new Error(outcome.error.message);
    const { lines, total } = outcome.value;
    const [whole] = await sql(
      `SELECT ${COUNTED.map((key) => `sum(${key})`).join()} FROM ${TABLES[source]} WHERE day > ${LAST - 20}`,
    );
    expect(sums(total)).toEqual(whole);
    const added = COUNTED.map((key) => lines.reduce((sum, line) => sum + line.sums[key], 0));
    expect(added).toEqual(whole);
    // The lines themselves, where both levels are columns of the report.
    const columns = [level, split]
      .filter((one) => one !== "" && one !== "workspace")
      .map((one) => COLUMN[one as Level]);
    if (columns.includes(undefined) || columns.length === 0) return;
    const slow = await sql(
      `SELECT ${COUNTED.map((key) => `sum(${key})`).join()} FROM ${TABLES[source]} WHERE day > ${LAST - 20} GROUP BY ${columns.join()}`,
    );
    const asText = (rows: number[][]) => rows.map((row) => row.join("/")).sort();
    const seen = lines.map((line) => sums(line.sums)).filter((row) => row.some((value) => value !== 0));
    expect(asText(seen)).toEqual(asText(slow.filter((row) => row.some((value) => value !== 0))));
  });

  it("by aim tell own pages and own brands from other searches, as SQL does", async () => {
    const { lines } = await slice({ level: "aim", days: 45 });
    const cost = async (where: string) => {
      const [row] = await sql(
        `SELECT coalesce(sum(cost), 0) FROM term_facts JOIN codes ON codes.no = term WHERE day > ${LAST - 45} AND text <> '' AND ${where}`,
      );
      return row![0];
    };
    const found = (key: string) => lines.find((line) => line.key === key)?.sums.cost ?? 0;
    const isOwn =
      "text IN (SELECT value ->> 'id' FROM json_each('" +
      JSON.stringify(Array.from({ length: 30 }, (_, i) => ({ id: `I${i}` }))) +
      "'))";
    expect(found("own pages")).toBeGreaterThan(0);
    expect(found("own pages")).toBe(await cost(isOwn));
    const isBrand = "(' ' || lower(text) || ' ') GLOB '* maker[0-2] *'";
    expect(found("own brand searches")).toBe(await cost(`${isBrand} AND NOT ${isOwn}`));
  });

  it("have one total, whichever report divides it", async () => {
    const totals = await Promise.all(
      (Object.keys(SOURCES) as Source[])
        .filter((source) => source !== "placement")
        .map(async (source) => sums((await slice({ level: source === "item" ? "campaign" : source, days: 45 })).total)),
    );
    for (const total of totals) expect(total).toEqual(totals[0]);
  });

  it("by a field of the catalogue, within a campaign, with store sales where they can stand", async () => {
    const brands = await slice({ level: "field:brand", days: 30 });
    expect(brands.lines.map(({ key }) => key).sort()).toEqual(["Maker0", "Maker1", "Maker2"]);
    const [store] = await sql(`SELECT sum(orders), sum(revenue) FROM store_sales WHERE day > ${LAST - 30}`);
    expect([brands.total.storeOrders, brands.total.storeRevenue]).toEqual(store);
    const within = await slice({ level: "field:brand", days: 30, within: '[{"level":"campaign","key":"c:k"}]' });
    const [words] = await sql(
      `SELECT sum(cost), sum(revenue) FROM item_facts WHERE day > ${LAST - 30} AND campaign = (SELECT no FROM codes WHERE text = 'c:k' AND kind = 'campaign')`,
    );
    expect([within.total.cost, within.total.revenue, within.hasStore]).toEqual([...words!, false]);
    const campaigns = await slice({ level: "campaign", days: 30 });
    expect([campaigns.total.storeRevenue, campaigns.hasStore, campaigns.lines[0]!.sums.storeRevenue]).toEqual([
      store![1],
      false,
      0,
    ]);
    expect(await viewSlice(workspace.db, workspace.info, sliceSchema.parse({ level: "field:nothing" }))).toMatchObject({
      ok: false,
    });
  });

  it("stand against any other days", async () => {
    const [from, to] = [formatDay(FIRST + 5), formatDay(FIRST + 9)];
    const ranged = await slice({ level: "campaign", days: 7, compare: "range", compareFrom: from, compareTo: to });
    const [then] = await sql(
      `SELECT sum(cost), sum(orders) FROM item_facts WHERE day BETWEEN ${FIRST + 5} AND ${FIRST + 9}`,
    );
    expect([ranged.before!.cost, ranged.before!.orders, ranged.compared]).toEqual([
      ...then!,
      { from, to, days: 5, known: 5 },
    ]);
    const own = await slice({ level: "campaign", from, to, compare: "year" });
    expect([own.total.cost, own.before]).toEqual([then![0], null]);
    expect(own.compared!.from).toBe(`${Number(from.slice(0, 4)) - 1}${from.slice(4)}`);
    expect((await slice({ level: "campaign", compare: "none" })).before).toBeNull();
    // Results began in the middle of the days before: like would not stand beside like, so nothing is compared.
    const partly = await slice({ days: DAYS - 10 });
    expect(partly.compared).toMatchObject({ days: DAYS - 10, known: 10 });
    expect([partly.before, partly.lines[0]!.before]).toEqual([null, null]);
    const turned = sliceSchema.parse({ from: to, to: from });
    expect(await viewSlice(workspace.db, workspace.info, turned)).toMatchObject({ error: { code: "days-reversed" } });
  });

  it("are searched, sorted and cut into pages", async () => {
    const all = await slice({ level: "term", days: 30, sort: "-roas" });
    const roas = all.lines.map(({ sums: of }) => METRICS.roas.of(of)).filter((value) => value !== null);
    expect(roas).toEqual([...roas].sort((a, b) => b - a));
    const rakes = await slice({ level: "term", days: 30, q: "RAKES" });
    expect(rakes.count).toBeGreaterThan(2);
    for (const { name } of rakes.lines) expect(name).toContain("rakes");
    const second = await slice({ level: "term", days: 30, sort: "-roas", limit: 3, cursor: 3 });
    expect(second.lines.map(({ key }) => key)).toEqual(all.lines.slice(3, 6).map(({ key }) => key));
    expect([second.count, second.nextCursor]).toEqual([all.count, 6]);
    const sure = await slice({ level: "item", days: 30, sort: "-chance" });
    const chances = sure.lines.flatMap(({ evidence }) => (evidence ? [evidence] : []));
    for (const { low, mean, high } of chances) expect(low <= mean && mean <= high).toBe(true);
  });

  it("are narrowed down by numbers, and what is found is summed", async () => {
    const where = JSON.stringify([
      { metric: "cost", op: "least", value: 2_000 },
      { metric: "roas", op: "most", value: 2 },
    ]);
    const found = await slice({ level: "term", days: 60, where, limit: 1000 });
    const grouped = await sql(
      `SELECT sum(cost), sum(revenue), sum(clicks) FROM term_facts WHERE day > ${LAST - 60} GROUP BY term HAVING sum(cost) >= 2000 AND sum(revenue) <= 2 * sum(cost)`,
    );
    expect(found.count).toBe(grouped.length);
    expect(found.count).toBeGreaterThan(3);
    const slow = [0, 1, 2].map((at) => grouped.reduce((sum, row) => sum + row[at]!, 0));
    expect([found.found!.cost, found.found!.revenue, found.found!.clicks]).toEqual(slow);
    expect((await slice({ level: "term", days: 60 })).found).toBeNull();
    expect(sliceSchema.safeParse({ where: '[{"metric":"costs","op":"least","value":1}]' }).success).toBe(false);
  });

  it("by cost share begin with what cost money and sold nothing", async () => {
    const { lines } = await slice({ level: "term", days: 30, sort: "-acos", limit: 1000 });
    const nothing = lines.filter(({ sums: of }) => of.cost > 0 && of.revenue === 0);
    expect(nothing.length).toBeGreaterThan(2);
    expect(lines.slice(0, nothing.length)).toEqual(nothing);
    const rest = lines.slice(nothing.length).flatMap(({ sums: of }) => METRICS.acos.of(of) ?? []);
    expect(rest).toEqual([...rest].sort((a, b) => b - a));
  });

  it("show targets that never had an impression", async () => {
    const within = '[{"level":"campaign","key":"c:k"}]';
    const { lines } = await slice({ level: "target", days: 30, within });
    const [seen] = await sql(
      `SELECT count(DISTINCT target) FROM term_facts WHERE day > ${LAST - 30} AND campaign = (SELECT no FROM codes WHERE text = 'c:k' AND kind = 'campaign')`,
    );
    expect(lines).toHaveLength(3);
    expect(seen![0]).toBe(2);
    expect(lines.find(({ name }) => name.includes("zeppelin"))!.sums.impressions).toBe(0);
  });

  it("say the same of a line in a narrower view", async () => {
    const all = await slice({ level: "campaign", days: 30 });
    const alone = await slice({ level: "campaign", days: 30, within: '[{"level":"campaign","key":"c:k"}]' });
    expect(alone.lines).toHaveLength(1);
    expect(alone.lines[0]!.evidence).toEqual(all.lines.find(({ key }) => key === "c:k")!.evidence);
  });

  it("are written to a file with their totals", async () => {
    const metrics: MetricKey[] = ["cost", "roas"];
    const out = await exportSlice(
      workspace.db,
      workspace.info,
      sliceSchema.parse({ level: "campaign", split: "slot" }),
      metrics,
    );
    if (!out.ok) throw new Error(out.error.message);
    expect(out.value.headings.slice(0, 5)).toEqual(["Campaign", "Key", "Slot", "Spend", "Spend, compared"]);
    // A file of all lines has chances, though no intervals are worked out for it.
    expect(out.value.rows.slice(0, -1).some((row) => typeof row.at(-1) === "number")).toBe(true);
    const cost = out.value.rows.slice(0, -1).reduce((sum, row) => sum + Number(row[3]), 0);
    expect(cost).toBeCloseTo(Number(out.value.rows.at(-1)![3]), 6);
  });
});

describe("days that are not complete", () => {
  it("are told, and completed by how earlier ones filled up", async () => {
    const lag = await loadLag(workspace.db);
    expect(lag.ageOf(LAST)).toBe(0);
    // The market's own truth, which the product does not know: learned from some hundred orders it is near it.
    for (const age of [0, 1, 3, 7]) expect(Math.abs(seenShare(lag.curve, age) - SEEN_BY[age]!)).toBeLessThan(0.09);
    expect(seenShare(lag.curve, 20)).toBe(1);
    const recent = await slice({ level: "day", days: 6, sort: "name" });
    expect(recent.incompleteDays).toBe(6);
    const complete = await slice({ level: "day", days: 6, sort: "name", complete: "true" });
    complete.lines.forEach((line, i) => {
      const seen = recent.lines[i]!;
      expect(line.sums.orders).toBeCloseTo(seen.sums.orders / seenShare(lag.curve, 5 - i), 6);
      expect([line.sums.cost, line.sums.clicks]).toEqual([seen.sums.cost, seen.sums.clicks]);
    });
    const toCome = complete.total.orders - recent.total.orders;
    expect(recent.ordersToCome).toBeCloseTo(toCome, 6);
    expect(toCome).toBeGreaterThan(0);
  });
});

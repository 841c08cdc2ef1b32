import { beforeAll, describe, expect, it } from "vitest";
import { formatDay } from "@/core/kit/days";
import { comparedWords, matches } from "@/core/channel/matching";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { plannedAccount } from "../account/state";
import { keepNotes } from "../places/ledger-notes";
import { loadMoves } from "../moves/moves";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { aimedTargets } from "./aimed-at";
import { poolSchema, viewPool } from "./keyword-desk";
import { viewDefence } from "./defence";
import { keepLaunch, launchSchema, lookAtLaunch } from "./launch";
import { importLedger, keepHarvest, ledgerFilterSchema, lookAtHarvest, viewLedger, type LedgerShown } from "./ledger";

/** A feed campaign for forty days, then a harvest and a launch, as the ledger and the market see them. */

const FEED = `id,title,price,brand,category,cost\n${Array.from(
  { length: 24 },
  (_, i) =>
    `I${i},Maker${i % 3} ${["Oak", "Steel"][i % 2]} ${i % 2 ? "Hose" : "Rake"} ${i},${15 + i},Maker${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"},${6 + i / 3}`,
).join("\n")}\n`;
const ITEMS = Array.from({ length: 24 }, (_, i) => `I${i}`);
const FIRST = 20_700;

let db: Database;
let info: WorkspaceInfo;

async function done<T>(
  outcome: Promise<{ ok: true; value: T } | { ok: false; error: { message: string } }>,
): Promise<T> {
  const found = await outcome;
  if (!found.ok) throw new Error(found.error.message);
  return found.value;
}
const list = (show: LedgerShown, q = "") => done(viewLedger(db, info, ledgerFilterSchema.parse({ show, q })));

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:f", { name: "Feed" }, ITEMS, 700)));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: FIRST + 39, seed: "s" });
}, 120_000);

describe("the ledger", () => {
  it("judges every term and page with clicks, as SQL counts them, each in one list", async () => {
    const { rows } = await db.$client.execute(
      "SELECT t.text, sum(f.clicks), sum(f.cost), sum(f.orders) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text != '' GROUP BY t.no HAVING sum(f.clicks) > 0",
    );
    const all = await list("all");
    const told = new Map(all.lines.map((line) => [line.place, line]));
    expect(rows.length).toBeGreaterThan(20);
    for (const row of rows) {
      expect(told.get(String(row[0]))).toMatchObject({ clicks: row[1], cost: row[2], orders: row[3] });
    }
    const { counts } = all;
    expect(counts.harvest).toBeGreaterThan(0);
    const judged = await Promise.all((["harvest", "single", "waste"] as const).map((show) => list(show)));
    const places = judged.flatMap(({ lines }) => lines.map(({ place }) => place));
    expect(new Set(places).size).toBe(places.length);
    for (const line of judged[0]!.lines) {
      expect(line.orders).toBeGreaterThanOrEqual(2);
      expect(line.acos!).toBeLessThanOrEqual(line.ceiling!);
    }
  });

  it("takes a harvest from a term to what is sent, each thing once, and nothing is proposed twice", async () => {
    const [best] = (await list("harvest")).lines.filter(({ what }) => what === "term");
    const [page] = (await list("all")).lines.filter(
      ({ what, orders, place }) => what === "listing" && orders > 0 && !/^I\d+$/.test(place),
    );
    const places = [best!, page!].map(({ what, place }) => ({ what: what!, text: place }));
    const harvest = { places, keepOut: true, bids: { [best!.key]: 640 } };
    const look = await done(lookAtHarvest(db, info, harvest));
    expect(look.made.map(({ place, keptOutOf }) => [place, keptOutOf])).toEqual(
      places.map(({ text }) => [text, ["Feed"]]),
    );
    expect(look.made[0]!.bid).toBe(640);
    expect((await done(keepHarvest(db, info, "ann", null, harvest))).changes).toBe(look.changes);
    const account = await plannedAccount(db);
    expect(account.all("keyword").map(({ text, match, bid }) => `${text} ${match} ${bid}`)).toContain(
      `${best!.place} exact 640`,
    );
    expect(account.all("listingTarget").map(({ aim }) => aim.by === "listing" && aim.listing)).toContain(page!.place);
    // What waits is not used yet; it is once it was sent, since the day from which the channel works with it.
    expect((await list("used", best!.place)).lines[0]!.entry).toMatchObject({ state: "waiting", since: null });
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const used = (await list("used")).lines.find(({ place }) => place === best!.place)!;
    expect(used.entry).toMatchObject({ state: "in use", since: formatDay(FIRST + 40), where: ["Terms by name"] });
    expect((await list("harvest")).lines.map(({ place }) => place)).not.toContain(best!.place);
    const again = await done(
      lookAtHarvest(db, info, { ...harvest, places: [...places, { what: "term", text: "never seen" }] }),
    ).catch((error: Error) => error.message);
    expect(again).toBe("Nothing can be made of these.");
  });

  it("keeps what somebody decided against, also from moves, until it is taken back; lists are matched as what each line is", async () => {
    const [next] = (await list("harvest")).lines;
    await keepNotes(db, "ann", [{ what: next!.what!, text: next!.place }], { state: "dismissed", reason: "not ours" });
    expect((await list("dismissed")).lines).toMatchObject([
      { place: next!.place, entry: { reason: "not ours", who: "ann" } },
    ]);
    expect((await list("harvest")).lines.map(({ place }) => place)).not.toContain(next!.place);
    const moves = await done(loadMoves(db, info));
    expect(moves.ground.isDismissed!(next!.place)).toBe(true);
    const { rows } = await db.$client.execute("SELECT name FROM channel_places WHERE kind = 'listing' LIMIT 1");
    const listing = String(rows[0]![0]);
    const taken = await importLedger(db, "ann", {
      values: ["Some  Old Term", listing, "4711", "some old term"],
      reason: "",
    });
    expect(taken).toEqual({ kept: 2, unsure: ["4711"] });
    expect((await list("dismissed", "old term")).lines).toMatchObject([
      { what: "term", entry: { state: "elsewhere" } },
    ]);
    expect((await list("dismissed", listing)).lines).toMatchObject([{ what: "listing" }]);
  });
});

describe("the keyword desk", () => {
  it("has what was searched for, what titles say and what the channel tells, with results as SQL has them", async () => {
    const { lines, items, looked, categories } = await done(
      viewPool(db, info, poolSchema.parse({ category: "Garden > Hoses" })),
    );
    expect([items, looked, categories.map(({ items: count }) => count)]).toEqual([12, 12, [12, 12]]);
    const of = (origin: string) => lines.filter(({ origins }) => origins.some((one) => one === origin));
    for (const origin of ["channel", "results", "titles"]) expect(of(origin).length).toBeGreaterThan(0);
    for (const { text, clicks, orders } of of("results")) {
      const { rows } = await db.$client.execute({
        sql: "SELECT coalesce(sum(f.clicks), 0), coalesce(sum(f.orders), 0) FROM term_facts f JOIN codes t ON t.no = f.term WHERE lower(t.text) = ?",
        args: [text.toLowerCase()],
      });
      expect([clicks, orders]).toEqual([Number(rows[0]![0]), Number(rows[0]![1])]);
    }
    // What was harvested is told as used, in whichever category it lies.
    const other = await done(viewPool(db, info, poolSchema.parse({ category: "Garden > Rakes" })));
    expect([...lines, ...other.lines].filter(({ entry }) => entry?.state === "in use")).toHaveLength(1);
    // No listing's page is a keyword.
    const { rows } = await db.$client.execute("SELECT name FROM channel_places WHERE kind = 'listing'");
    const pages = new Set(rows.map((row) => String(row[0])));
    expect(of("results").filter(({ text }) => pages.has(text))).toEqual([]);
    expect(await viewPool(db, info, poolSchema.parse({ items: ["gone"] }))).toMatchObject({
      error: { code: "pool-item-gone" },
    });
  });
});

describe("the defence", () => {
  it("tells how much of our own pages and brand searches we hold, as SQL and the channel's views have it", async () => {
    const { lines, days } = await done(viewDefence(db, info));
    const pages = lines.filter(({ what }) => what === "page");
    expect(pages.length).toBeGreaterThan(3);
    expect(lines.some(({ what }) => what === "brand")).toBe(true);
    for (const { place, impressions, cost, monthlyViews, share, title } of lines) {
      const { rows } = await db.$client.execute({
        sql: "SELECT coalesce(sum(f.impressions), 0), coalesce(sum(f.cost), 0) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text = ?",
        args: [place],
      });
      expect([impressions, cost]).toEqual([Number(rows[0]![0]), Number(rows[0]![1])]);
      if (monthlyViews) expect(share).toBeCloseTo((impressions * 30) / (monthlyViews * days), 9);
      if (ITEMS.includes(place)) expect(title).toContain("Maker");
    }
  });
});

describe("a launch", () => {
  const ask = (more: object = {}) =>
    launchSchema.parse({ items: ["I3"], name: "New hose", purpose: "rank", dailyBudget: 20_000, ...more });

  it("is seen before it is made, changes what is priced or left out, and fails in words", async () => {
    const look = await done(lookAtLaunch(db, info, ask()));
    const parts = look.campaigns.map(({ part }) => part);
    expect(new Set(parts)).toEqual(
      new Set(
        ["discovery", "keywords", "rivals", "defence", "brand"].filter(
          (part) => !look.nothing.some((one) => one.part === part),
        ),
      ),
    );
    expect(look.campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0)).toBe(20_000);
    expect(look.worstDay).toBe(25_000);
    expect(look.homes).toMatchObject([{ campaign: "c:f", bid: 700, items: 1 }]);
    expect(look.checks).toEqual([]);
    const [first] = look.campaigns[0]!.targets;
    const changed = await done(lookAtLaunch(db, info, ask({ leftOut: [first!.id] })));
    expect(changed.campaigns[0]).toMatchObject({ dailyBudget: 0, targets: [{ isOut: true }] });
    expect(changed.campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0)).toBe(20_000);
    // What is priced or left out stays so under another name; and only what is made counts for who outranks it.
    const renamed = await done(lookAtLaunch(db, info, ask({ name: "Hose, new", leftOut: [first!.id] })));
    expect(renamed.campaigns[0]).toMatchObject({
      name: expect.stringContaining("Hose, new") as string,
      targets: [{ isOut: true }],
    });
    const all = look.campaigns.flatMap(({ targets }) => targets);
    const [cheap, ...others] = all.toSorted((a, b) => a.bid - b.bid);
    const bids = Object.fromEntries(others.map(({ id }) => [id, 900]));
    expect((await done(lookAtLaunch(db, info, ask({ bids })))).crowd).toHaveLength(1);
    expect((await done(lookAtLaunch(db, info, ask({ bids, leftOut: [cheap!.id] })))).crowd).toEqual([]);
    const apart = await done(lookAtLaunch(db, info, ask({ items: ["I3", "I5"], each: true })));
    expect(new Set(apart.campaigns.map(({ name }) => name)).size).toBe(apart.campaigns.length);
    expect(apart.worstDay).toBe(50_000);
    expect(await lookAtLaunch(db, info, ask({ items: ["I3", "gone"] }))).toMatchObject({
      error: { code: "launch-item-gone" },
    });
    expect(await lookAtLaunch(db, info, ask({ items: ITEMS.slice(0, 21), each: true }))).toMatchObject({
      error: { code: "launch-too-many" },
    });
  });

  it("is shown by the channel from the first day with the bids that were seen, and pays no more than its worst day", async () => {
    const plain = await done(lookAtLaunch(db, info, ask()));
    // The feed's other items bid more in the same auctions: it says so, what making way would stop, and makes way on wish.
    expect(plain.crowd).toMatchObject([{ campaign: "c:f", bid: 700, items: 11 }]);
    const named = plain.campaigns.flatMap(({ targets }) =>
      targets.flatMap(({ match, label }) => (match === "phrase" ? [] : [label])),
    );
    const { rows: past } = await db.$client.execute(
      `SELECT t.text, sum(f.cost), t.text IN (SELECT name FROM channel_places WHERE 'listing' = kind) FROM term_facts f
       JOIN codes t ON t.no = f.term JOIN codes c ON c.no = f.campaign WHERE c.text = 'c:f' GROUP BY t.no`,
    );
    const isStopped = (text: string, isPage: boolean) =>
      isPage ? named.includes(text) : named.some((one) => matches(comparedWords(one), comparedWords(text), "exact"));
    const stopped = past.filter((row) => isStopped(String(row[0]), Number(row[2]) === 1));
    expect(plain.wouldStop.cost).toBe(stopped.reduce((sum, row) => sum + Number(row[1]), 0));
    expect(plain.wouldStop.cost).toBeGreaterThan(0);
    const look = await done(lookAtLaunch(db, info, ask({ makeWay: true })));
    const kept = await done(keepLaunch(db, info, "ann", null, ask({ makeWay: true })));
    expect(kept.changes).toBe(look.changes);
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await runToEnd(db, info, "market-run", { from: FIRST + 40, through: FIRST + 49, seed: "s" });
    const window = { from: FIRST + 40, to: FIRST + 49 };
    const { targets } = await aimedTargets(db, window);
    const names = new Set(look.campaigns.map(({ name }) => name));
    const launched = targets.filter(({ campaignName }) => names.has(campaignName));
    const planned = look.campaigns.flatMap(({ targets: all }) => all.map(({ bid }) => bid));
    expect(launched.map(({ bid }) => bid).sort()).toEqual(planned.sort());
    // With the way clear most of what it aims at by name is seen within ten days.
    // What is not says why: here the feed's other items bid twice as much.
    const quiet = launched.filter(({ how, sums }) => how === "automatic" && sums.impressions === 0);
    expect(quiet.map((target) => target.quiet)).toEqual(quiet.map(() => ({ reason: "outranked", by: "Feed" })));
    const byName = launched.filter(({ how }) => how === "exact" || how === "one listing");
    expect(byName.filter(({ sums }) => sums.impressions > 0).length).toBeGreaterThan(byName.length / 2);
    const { rows } = await db.$client.execute({
      sql: `SELECT f.day, sum(f.cost) FROM term_facts f JOIN codes c ON c.no = f.campaign
        WHERE f.day >= ? AND c.text IN (SELECT value FROM json_each(?)) GROUP BY f.day`,
      args: [FIRST + 40, JSON.stringify([...new Set(launched.map(({ campaign }) => campaign))])],
    });
    expect(rows.length).toBeGreaterThan(0);
    for (const row of rows) expect(Number(row[1])).toBeLessThanOrEqual(look.worstDay!);
    // The same name can't be launched twice.
    expect(await keepLaunch(db, info, "ann", null, ask())).toMatchObject({ error: { code: "name-taken" } });
  });
});

import { beforeAll, describe, expect, it } from "vitest";
import { formatDay } from "@/core/kit/days";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { comparedWords, matches } from "@/core/channel/matching";
import { BID_OVER_CPC } from "@/core/targets/start-bid";
import { aimingSchema } from "@/core/targets/aims";
import type { Database } from "@/db/client";
import { editAccount } from "../account/edits";
import { editSchema } from "@/core/account/acts";
import { viewBudgets } from "../budgets/pools";
import { keptOut } from "../exclusions/kept-out";
import { keepNegatives, negativesSchema } from "../exclusions/negatives";
import { putRecords, recordsSchema } from "../account/put-records";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { keepAims, previewAims } from "./aim";
import { aimedTargets } from "./aimed-at";
import { pastePlaces, pastePlacesSchema } from "../channel/paste-places";
import { knownListings } from "../places/listings";

/** What was aimed at, kept out and capped on day 20, seen on day 34, against SQL on the same rows. */

const FEED = `id,title,price,brand,category\n${Array.from(
  { length: 20 },
  (_, i) => `I${i},${["Oak", "Steel"][i % 2]} Rake ${i},${15 + i},Maker${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"}`,
).join("\n")}\n`;
const ITEMS = Array.from({ length: 20 }, (_, i) => `I${i}`);
const FIRST = 20_700;
const CHANGE = FIRST + 20;
const LAST = CHANGE + 13;

let db: Database;
let info: WorkspaceInfo;
let wasted: string;
let rival: string;

async function number(sql: string, ...args: (string | number)[]): Promise<number> {
  const { rows } = await db.$client.execute({ sql, args });
  return Number(rows[0]?.[0] ?? 0);
}

async function done<T>(
  outcome: Promise<{ ok: true; value: T } | { ok: false; error: { message: string } }>,
): Promise<T> {
  const found = await outcome;
  if (!found.ok) throw new Error(found.error.message);
  return found.value;
}

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:f", { name: "Feed" }, ITEMS, 900)));
  const words = testCampaign("c:w", { name: "Words", kind: "keyword", dailyBudget: 3_000 }, ITEMS, 400, [
    { type: "keyword", text: "rakes", match: "broad", bid: 1500 },
    { type: "keyword", text: "zzz unheard of", match: "exact" },
    { type: "keyword", text: "rakes", match: "exact", status: "paused" },
  ]);
  await addToBasket(db, diffRecords({}, words));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: CHANGE - 1, seed: "s" });
  const { rows } = await db.$client.execute(
    `SELECT t.text FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text != '' GROUP BY t.no ORDER BY sum(f.cost) DESC LIMIT 1`,
  );
  wasted = String(rows[0]![0]);
  const found = (await knownListings(db)).find(({ kind }) => kind === "rival")!;
  rival = found.listing;
  await done(
    keepNegatives(
      db,
      "ann",
      null,
      negativesSchema.parse({ what: "term", values: [wasted], reviewOn: formatDay(CHANGE - 400) }),
      "EUR",
    ),
  );
  await done(
    editAccount(
      db,
      "ann",
      null,
      editSchema.parse({ action: "exclude", items: ["I1"], reason: "wasteful", campaign: "c:f" }),
      "EUR",
    ),
  );
  const aims = aimingSchema.parse({
    aims: [{ what: "listing", listing: rival }],
    place: { kind: "new", name: "Won", purpose: "conquest", dailyBudget: 5_000, items: [found.nearest!.id] },
    bid: 1500,
  });
  await done(keepAims(db, info, "ann", null, aims));
  const purses = { put: [{ type: "pool", key: "pool:p", name: "P", dailyBudget: 2_000 }] };
  await done(putRecords(db, "ann", null, recordsSchema.parse(purses), "EUR"));
  await done(editAccount(db, "ann", null, editSchema.parse({ action: "pool", keys: ["c:w"], pool: "pool:p" }), "EUR"));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: CHANGE, through: LAST, seed: "s" });
}, 120_000);

describe("what is kept out", () => {
  it("tells spend before and what came since, as SQL does on the same rows", async () => {
    const { entries } = await keptOut(db, info);
    const term = entries.find(({ what }) => what === "term")!;
    expect(term).toMatchObject({
      value: wasted,
      who: expect.any(String) as string,
      since: formatDay(CHANGE),
      isDue: true,
    });
    const sums = (from: number, to: number) =>
      number(
        `SELECT sum(f.cost) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text = ? AND f.day BETWEEN ? AND ?`,
        wasted,
        from,
        to,
      );
    expect(term.before).toMatchObject({ days: 20, cost: await sums(FIRST, CHANGE - 1) });
    expect(term.before!.cost).toBeGreaterThan(0);
    expect(term.after).toMatchObject({ days: 14, clicks: 0, cost: 0 });
    expect(entries[0]).toBe(term);
  });

  it("holds an item out of its one campaign, and counts what others go on with as no part of it", async () => {
    const { entries } = await keptOut(db, info);
    const item = entries.find(({ what }) => what === "item")!;
    expect(item).toMatchObject({ value: "I1", title: "Steel Rake 1", scopeName: "Feed" });
    const sql = `SELECT sum(f.clicks) FROM item_facts f JOIN items i ON i.item_no = f.item_no JOIN codes c ON c.no = f.campaign WHERE i.item_id = 'I1' AND c.text = ? AND f.day BETWEEN ? AND ?`;
    expect(item.before!.clicks).toBe(await number(sql, "c:f", FIRST, CHANGE - 1));
    expect(item.before!.clicks).toBeGreaterThan(0);
    expect(item.after!.clicks).toBe(0);
  });
});

describe("what is aimed at", () => {
  it("is listed with results, quiet ones with why", async () => {
    const { targets } = await aimedTargets(db, { from: CHANGE, to: LAST });
    const of = (name: string, how: string) => targets.find((target) => target.name === name && target.how === how)!;
    expect(of("zzz unheard of", "exact").quiet).toEqual({ reason: "no-traffic", by: "" });
    expect(of("rakes", "exact").quiet).toEqual({ reason: "paused", by: "" });
    const broad = of("rakes", "broad");
    const sql = `SELECT sum(f.clicks) FROM term_facts f JOIN codes t ON t.no = f.target WHERE t.text = ? AND f.day >= ?`;
    expect(broad.sums.clicks).toBe(await number(sql, broad.key, CHANGE));
    expect(broad).toMatchObject({ bid: 1500, items: 20, quiet: null });
    const won = of(rival, "one listing");
    expect(won.sums.impressions).toBeGreaterThan(0);
    expect(won.items).toBe(1);
  });

  it("is seen before it is made: prices, past, use, faults and items that fit", async () => {
    const place = { kind: "new", name: "New", purpose: "rank", dailyBudget: 5_000, items: [] };
    const ask = (aims: object[]) => done(previewAims(db, info, aimingSchema.parse({ aims, place })));
    const found = await ask([
      { what: "keyword", text: "rakes", matches: ["broad", "exact"] },
      { what: "keyword", text: "!!", matches: ["exact"] },
    ]);
    expect(found.faults).toHaveLength(1);
    expect(found.targets.map(({ match, usedIn }) => [match, usedIn.map(({ isOn }) => isOn)])).toEqual([
      ["broad", [true]],
      ["exact", [false]],
    ]);
    // The first bid starts from what the terms that it reaches were paid with; where nothing was, from the rate card.
    const { rows } = await db.$client.execute(
      `SELECT t.text, sum(f.clicks), sum(f.cost) FROM term_facts f JOIN codes t ON t.no = f.term
       WHERE t.text NOT IN (SELECT name FROM channel_places WHERE 'listing' = kind) GROUP BY t.no`,
    );
    const reached = rows.filter((row) => matches(["rakes"], comparedWords(String(row[0])), "broad"));
    const sum = (at: number) => reached.reduce((all, row) => all + Number(row[at]), 0);
    expect(found.targets[0]!.start).toMatchObject({ from: "paid", worth: null, paid: sum(2) / sum(1) });
    expect(found.targets[0]!.bid).toBe(10 * Math.round((BID_OVER_CPC * sum(2)) / sum(1) / 10));
    const [unseen] = (await ask([{ what: "keyword", text: "oak rakes pictures", matches: ["exact"] }])).targets;
    expect(unseen).toMatchObject({ bid: 300, start: { from: "blind", paid: null } });
    // With items it is what a click is worth to them, at most a step from there; their home is told, and which of both comes first.
    const shown = await done(
      previewAims(
        db,
        info,
        aimingSchema.parse({
          aims: [{ what: "keyword", text: "rakes", matches: ["exact"] }],
          place: { ...place, items: ["I0", "I2"] },
          bids: { "exact/rakes": 770 },
        }),
      ),
    );
    const [one] = shown.targets;
    expect(one!.start.worth).toBeGreaterThan(0);
    expect(one).toMatchObject({ id: "exact/rakes", bid: 770, start: { home: 900 } });
    expect(one!.start.bid).toBeLessThanOrEqual(2 * BID_OVER_CPC * one!.start.paid! + 10);
    expect(shown.homes).toMatchObject([{ campaign: "c:f", bid: 900, items: 2, isBefore: false }]);
    expect(shown.chosen.map(({ id }) => id)).toEqual(["I0", "I2"]);
    expect(found.items.length).toBeGreaterThan(0);
    expect(found.items.every(({ title }) => /Rake/.test(title))).toBe(true);
    const [past] = (await ask([{ what: "keyword", text: wasted, matches: ["exact"] }])).past;
    const sql = `SELECT sum(f.cost) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text = ?`;
    expect(past?.cost).toBe(await number(sql, wasted));
    const [silenced] = (await ask([{ what: "keyword", text: wasted, matches: ["exact"] }])).targets;
    expect(silenced!.isSilenced).toBe(true);
  });

  it("is refused with a sentence where an item is gone or a page is our own", async () => {
    const aims = (aim: object, items: string[]) =>
      keepAims(
        db,
        info,
        "ann",
        null,
        aimingSchema.parse({
          aims: [aim],
          place: { kind: "new", name: "N", purpose: "rank", dailyBudget: 5_000, items },
        }),
      );
    expect(await aims({ what: "keyword", text: "x", matches: ["exact"] }, ["gone"])).toMatchObject({
      error: { code: "aim-item-gone" },
    });
    expect(await aims({ what: "listing", listing: "I3" }, ["I0"])).toMatchObject({ error: { code: "aim-unfit" } });
  });
});

describe("listings", () => {
  it("are those of the channel with results from reports, and our nearest item by price", async () => {
    const listings = await knownListings(db);
    const known = listings.find(({ listing }) => listing === rival)!;
    const sql = `SELECT sum(f.clicks) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text = ?`;
    expect(known.clicks).toBe(await number(sql, rival));
    expect(known).toMatchObject({ kind: "rival", aimedAt: 1 });
    const gap = (price: number) => Math.abs(Math.log(price / known.price!));
    const same = ITEMS.flatMap((_, i) =>
      `Garden > ${i % 2 ? "Hoses" : "Rakes"}` === known.category ? [(15 + i) * 1000] : [],
    );
    expect(gap(known.nearest!.price!)).toBeCloseTo(Math.min(...same.map(gap)), 9);
  });

  it("are taken in from pasted lines; what can't be read is said with its line", async () => {
    const text =
      "listing\ttitle\tcategory\tprice\trating\treviews\nL1\tTheirs\tGarden > Rakes\t12,50\t4.5\t1.204\nL2\tX\t\tdear\nL3\tY\t\t9\t7\n\n\tno code\nL4";
    expect(await done(pastePlaces(db, info, "ann", pastePlacesSchema.parse({ text })))).toEqual({
      taken: 2,
      leftAlone: [],
      faults: [
        { line: 3, message: "“dear” is no price." },
        { line: 4, message: "“7” is no rating from 1 to 5." },
        { line: 6, message: "There is no listing's code in the first column." },
      ],
    });
    const pasted = (await knownListings(db)).find(({ listing }) => listing === "L1")!;
    expect(pasted).toMatchObject({
      title: "Theirs",
      price: 12_500,
      rating: 4.5,
      reviews: 1204,
      from: ["pasted"],
      kind: "rival",
    });
  });
});

describe("listings copied with quotes", () => {
  it("are taken in with what stands in them, and numbers that are none are said", async () => {
    const text =
      'L7;"Hose; the 5"" one";"Garden > Hoses";"1.299,00 €";4,5;12.0\nL8;"Over\ntwo lines";;9;;\nL9;Pot;;1.299;;\nL10;Can;;5;;4.5';
    expect(await done(pastePlaces(db, info, "ann", pastePlacesSchema.parse({ text })))).toEqual({
      taken: 2,
      leftAlone: [],
      faults: [
        { line: 3, message: "“1.299” is no price." },
        { line: 4, message: "“4.5” is no number of reviews." },
      ],
    });
    const listings = await knownListings(db);
    expect(listings.find(({ listing }) => listing === "L7")).toMatchObject({
      ...{ title: 'Hose; the 5" one', category: "Garden > Hoses", price: 1_299_000, rating: 4.5, reviews: 12 },
    });
    expect(listings.find(({ listing }) => listing === "L8")!.title).toBe("Over\ntwo lines");
  });
});

describe("pools", () => {
  it("stop their campaigns, and tell on how many days and when", async () => {
    const view = await viewBudgets(db);
    const [pool] = view.pools;
    const byDay = await db.$client.execute({
      sql: `SELECT f.day, sum(f.cost) FROM item_facts f JOIN codes c ON c.no = f.campaign WHERE c.text = 'c:w' AND f.day >= ? GROUP BY f.day`,
      args: [CHANGE],
    });
    const spends = byDay.rows.map((row) => Number(row[1]));
    expect(pool).toMatchObject({ members: 1, membersBudget: 3_000, dailyBudget: 2_000, days: 14 });
    expect(pool!.spent).toBe(Math.round(spends.reduce((a, b) => a + b, 0) / 14));
    const stopped = await db.$client.execute({
      sql: `SELECT count(*) FROM campaign_days d JOIN codes c ON c.no = d.campaign WHERE c.text = 'c:w' AND d.day >= ? AND d.dry_at IS NOT NULL`,
      args: [CHANGE],
    });
    expect(pool!.dryDays).toBe(Number(stopped.rows[0]![0]));
    expect(pool!.dryDays).toBeGreaterThanOrEqual(spends.filter((spent) => spent >= 1_960).length);
    expect(Math.max(...spends)).toBeLessThanOrEqual(2_000);
    expect(pool!.dryDays).toBeGreaterThan(0);
    expect(pool!.dryAt).toBeGreaterThan(0);
    expect(view.total.dailyBudget).toBe(view.campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0));
  });
});

import { beforeAll, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { comparedWords, matches } from "@/core/channel/matching";
import { SLOT_KEYS } from "@/core/kit/slots";
import type { Database } from "@/db/client";
import { plannedAccount } from "../account/state";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { placementsSchema, viewPlacements } from "./placements/placements";
import { keepNegatives, negativesSchema, previewNegatives } from "./negatives";

const FEED = `id,title,price,brand,category\n${Array.from(
  { length: 20 },
  (_, i) => `I${i},${["Oak", "Steel"][i % 2]} Rake ${i},${5 + i},Maker${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"}`,
).join("\n")}\n`;
const FIRST = 20_700;

let db: Database;
let info: WorkspaceInfo;
let terms: { label: string; campaign: string; cost: number; orders: number }[];

beforeAll(async () => {
  const workspace = await testWorkspace();
  ({ db, info } = workspace);
  await importFeed(workspace, FEED);
  const items = Array.from({ length: 20 }, (_, i) => `I${i}`);
  await addToBasket(db, diffRecords({}, testCampaign("c:f", { name: "Feed" }, items, 900)));
  await addToBasket(
    db,
    diffRecords(
      {},
      testCampaign("c:w", { name: "Words", kind: "keyword" }, items, 900, [
        { type: "keyword", text: "rakes", match: "exact" },
      ]),
    ),
  );
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: FIRST + 19, seed: "s" });
  terms = await readTerms();
});

/** Spend and orders of all days so far, by term and campaign. */
async function readTerms(): Promise<typeof terms> {
  const { rows } = await db.$client.execute(
    `SELECT t.text, c.text, sum(f.cost), sum(f.orders) FROM term_facts f JOIN codes t ON t.no = f.term JOIN codes c ON c.no = f.campaign GROUP BY t.no, c.no`,
  );
  return rows.map((row) => ({
    label: String(row[0]),
    campaign: String(row[1]),
    cost: Number(row[2]),
    orders: Number(row[3]),
  }));
}

const ask = (asked: object) => negativesSchema.parse(asked);
const sum = (lines: typeof terms) => lines.reduce((total, { cost }) => total + cost, 0);

describe("negatives from results", () => {
  it("say what they would have stopped, as SQL and the channel's matching have it", async () => {
    const dearest = terms.toSorted((a, b) => b.cost - a.cost).find(({ label }) => !/ no\. /.test(label))!;
    const one = comparedWords(dearest.label)[0]!;
    const { rows } = await db.$client.execute("SELECT name FROM channel_places WHERE kind = 'listing'");
    const listings = new Set(rows.map((row) => String(row[0])));
    for (const match of ["exact", "phrase"] as const) {
      for (const scope of [null, "c:f"]) {
        const found = await previewNegatives(
          db,
          { goal: 3 },
          ask({ what: "term", values: [one, dearest.label], match, scope }),
        );
        const hit = terms.filter(
          ({ label, campaign }) =>
            !listings.has(label) &&
            (scope === null || campaign === scope) &&
            [one, dearest.label].some((value) => matches(comparedWords(value), comparedWords(label), match)),
        );
        expect(hit.length).toBeGreaterThan(0);
        expect(found).toMatchObject({
          value: { cost: sum(hit), terms: new Set(hit.map(({ label }) => label)).size, days: 20 },
        });
      }
    }
  });

  it("name our own keywords that they would silence, and refuse what stops nothing or holds nowhere", async () => {
    const silencing = await previewNegatives(db, { goal: 3 }, ask({ what: "term", values: ["rake"], match: "phrase" }));
    expect(silencing).toMatchObject({ value: { keywords: ["rakes (exact)"] } });
    expect(await previewNegatives(db, { goal: 3 }, ask({ what: "term", values: ["oak", "?!"] }))).toMatchObject({
      error: { code: "negative-unfit" },
    });
    expect(
      await previewNegatives(db, { goal: 3 }, ask({ what: "term", values: ["oak"], scope: "c:gone" })),
    ).toMatchObject({
      error: { code: "negative-scope-gone" },
    });
    expect(
      await keepNegatives(db, "tester", null, ask({ what: "placement", values: ["a b.example"] }), "EUR"),
    ).toMatchObject({ ok: false });
  });

  it("of placements stand beside partner media as a whole, whose shares are of the whole account", async () => {
    const media = SLOT_KEYS.indexOf("partner-media");
    const cost = async (where: string) => {
      const { rows } = await db.$client.execute(`SELECT sum(cost) FROM slot_facts WHERE ${where}`);
      return Number(rows[0]![0]);
    };
    const found = (await viewPlacements(db, info, placementsSchema.parse({ show: "all" })))!;
    // The keyword campaign has no partner media, and its spend is part of the whole all the same.
    expect(found.campaigns.map(({ key }) => key)).toEqual(["c:f"]);
    expect([found.media.cost, found.account.cost]).toEqual([await cost(`slot = ${media}`), await cost("true")]);
    expect(found.account.cost).toBeGreaterThan(found.campaigns[0]!.all.cost);
    const [line] = found.lines;
    const looked = await previewNegatives(db, info, ask({ what: "placement", values: [line!.address] }));
    expect(looked).toMatchObject({
      value: { terms: 1, impressions: line!.impressions, whole: { cost: found.media.cost } },
    });
  });

  it("go into the basket once, with reason and day, and the channel obeys them when they are sent", async () => {
    const { label } = terms.filter(({ campaign }) => campaign === "c:f").toSorted((a, b) => b.cost - a.cost)[0]!;
    const asked = ask({
      what: "term",
      values: [label, label],
      scope: null,
      reason: "off-topic",
      reviewOn: "2027-01-01",
    });
    expect(await keepNegatives(db, "tester", null, asked, "EUR")).toMatchObject({ value: { changes: 1 } });
    const [kept] = (await plannedAccount(db)).all("negative");
    expect(kept).toMatchObject({
      value: label,
      what: "term",
      scope: null,
      reason: "off-topic",
      reviewOn: "2027-01-01",
    });
    expect(await previewNegatives(db, { goal: 3 }, asked)).toMatchObject({ value: { known: 2 } });
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await runToEnd(db, info, "market-run", { from: FIRST + 20, through: FIRST + 29, seed: "s" });
    const after = await db.$client.execute({
      sql: "SELECT count(*) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text = ? AND f.day >= ?",
      args: [label, FIRST + 20],
    });
    expect(Number(after.rows[0]![0])).toBe(0);
  });

  it("go out as what each line is: a listing's page by its code, a term by its words, and what could be either is asked", async () => {
    const { rows } = await db.$client.execute(
      "SELECT p.name, sum(f.cost), sum(f.clicks) FROM channel_places p JOIN codes t ON t.text = p.name JOIN term_facts f ON f.term = t.no WHERE 'listing' = p.kind GROUP BY p.name ORDER BY 2 DESC LIMIT 2",
    );
    const pages = rows.map((row) => String(row[0]));
    const term = terms.find(({ label }) => label.includes("cheap"))!.label;
    expect(pages).toHaveLength(2);
    const asked = ask({ what: "told", values: [...pages, term] });
    const found = await previewNegatives(db, { goal: 3 }, asked);
    const all = (await readTerms()).filter(
      ({ label }) => pages.includes(label) || matches(comparedWords(term), comparedWords(label), "exact"),
    );
    expect(found).toMatchObject({ value: { made: { terms: 1, listings: 2 }, cost: sum(all), misread: [] } });
    // A word in a page's code stops no page: only what people searched for counts as stopped.
    const word =
      comparedWords(pages[0]!).at(-1) === "1" ? comparedWords(pages[0]!)[0]! : comparedWords(pages[0]!).at(-1)!;
    const byWord = await previewNegatives(db, { goal: 3 }, ask({ what: "term", values: [word], match: "phrase" }));
    expect(byWord.ok && byWord.value.also.some(({ label }) => pages.includes(label))).toBe(false);
    // Given as terms they would have gone out as what stops no page; the preview says so.
    const misread = await previewNegatives(db, { goal: 3 }, ask({ what: "term", values: [...pages, term] }));
    expect(misread).toMatchObject({ value: { misread: pages } });
    const unsure = ask({ what: "told", values: ["X7K20PQ4"] });
    expect(await previewNegatives(db, { goal: 3 }, unsure)).toMatchObject({ error: { code: "place-unsure" } });
    expect(await previewNegatives(db, { goal: 3 }, { ...unsure, unsure: "listing" })).toMatchObject({
      value: { made: { terms: 0, listings: 1 } },
    });
    expect(await keepNegatives(db, "tester", null, asked, "EUR")).toMatchObject({ value: { changes: 3 } });
    const kept = (await plannedAccount(db)).all("negative").filter(({ value }) => asked.values.includes(value));
    expect(kept.map(({ what, value }) => `${what} ${value}`).sort()).toEqual(
      [...pages.map((page) => `listing ${page}`), `term ${term}`].sort(),
    );
    // And the channel obeys: no page is paid for any more.
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await runToEnd(db, info, "market-run", { from: FIRST + 30, through: FIRST + 39, seed: "s" });
    const after = await db.$client.execute({
      sql: "SELECT count(*) FROM term_facts f JOIN codes t ON t.no = f.term WHERE t.text IN (?, ?, ?) AND f.day >= ?",
      args: [...pages, term, FIRST + 30],
    });
    expect(Number(after.rows[0]![0])).toBe(0);
  });

  it("take addresses however they are written", async () => {
    const asked = ask({ what: "placement", values: ["https://www.Site-1.example/", "site-1.example"] });
    expect(await keepNegatives(db, "tester", null, asked, "EUR")).toMatchObject({ value: { changes: 1 } });
    expect((await plannedAccount(db)).all("negative").map(({ value }) => value)).toContain("site-1.example");
  });
});

import { beforeAll, describe, expect, it } from "vitest";
import type { Account } from "@/core/account/account";
import type { CopyPlan } from "@/core/copy/copy-plan";
import { field } from "@/core/parts/part";
import { textLength } from "@/core/kit/text-length";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { Database } from "@/db/client";
import { linkChecks } from "@/db/schema";
import { plannedAccount, liveAccount } from "../account/state";
import { editAccount } from "../account/edits";
import { putRecords } from "../account/put-records";
import { importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { lapsedIn } from "./ads";
import { lookAtCopy } from "./look";
import { findCopyPlan, freshCopyPlan, listCopyPlans, removeCopyPlan, saveCopyPlan } from "./plans";
import { copyGroups, letPass, proveCopy, warningsFile } from "./proof";

/** Six items: a plain one, a shouting one, a sold-out one, one without a brand, one reduced with three left, one with a very long title. */
const rows = (price = "12.90") => [
  "id,title,price,sale_price,brand,category,availability,stock,link,description",
  `A1,Oak Rake,${price},,Thornlea,Garden > Rakes,in stock,40,https://shop.example/a1,A rake of oak`,
  "A2,MEGA SUPER RAKE,15.00,,Thornlea,Garden > Rakes,in stock,9,https://shop.example/a2,Rakes all",
  "A3,Soft Hose,20.00,,Ottersby,Garden > Hoses,out of stock,0,https://shop.example/a3,A hose",
  "A4,Green Hose,22.00,,,Garden > Hoses,in stock,12,https://shop.example/a4,Green and soft",
  "A5,Pocket Spade,30.00,24.00,Veldine,Garden > Spades,in stock,3,https://shop.example/a5,Folds away",
  `A6,${"Extraordinary Telescopic Spade With Reinforced Handle ".repeat(3).trim()},99.00,,Veldine,Garden > Spades,in stock,7,https://shop.example/a6,`,
];

let db: Database;
let info: WorkspaceInfo;
let plan: CopyPlan;

beforeAll(async () => {
  const workspace = await testWorkspace();
  ({ db, info } = workspace);
  await importFeed(workspace, rows().join("\n"));
  const fresh = await freshCopyPlan(db, info);
  if (!fresh.ok) throw new Error(fresh.error.message);
  expect(fresh.value.groupsBy).toEqual(["category"]);
  plan = { ...fresh.value, groupsBy: ["id"], adGroupName: [field("product")], bidBy: "same", startingBid: 400 };
  await saveCopyPlan(db, plan);
});

const proof = async () => {
  const proved = await proveCopy(db, info, plan);
  if (!proved.ok) throw new Error(proved.error.message);
  return proved.value;
};

describe("a copy plan", () => {
  it("writes ads by ladders: reduced and scarce said where true, lines left out where not", async () => {
    const look = await lookAtCopy(db, info, { plan, find: "A5" });
    if (!look.ok) throw new Error(look.error.message);
    const [sample] = look.value.samples;
    expect(sample!.ads[0]!.out.map(({ text }) => text)).toEqual([
      "Pocket Spade",
      "Veldine Spades",
      "20% off, now €24.00",
      "Only 3 left",
      "Spades – in stock now",
      "Pocket Spade, now €24.00. Order online.",
      "Folds away",
      "Spades by Veldine. In stock now.",
      "spades",
    ]);
    const plain = await lookAtCopy(db, info, { plan, find: "A1" });
    if (!plain.ok) throw new Error(plain.error.message);
    expect(plain.value.samples[0]!.ads[0]!.out.map(({ text }) => text)).toEqual([
      ...["Oak Rake", "Thornlea Rakes", "Now €12.90", "In stock now", "Rakes – in stock now"],
      ...["Oak Rake, now €12.90. Order online.", "A rake of oak", "Rakes by Thornlea. In stock now.", "rakes"],
    ]);
  });

  it("proves itself in numbers: who has no ad and why, what is held back", async () => {
    const { adGroups, states, without, causes, ofLines } = await proof();
    expect(adGroups).toBe(5);
    expect(states).toEqual({ none: 0, whole: 4, shorter: 1, held: 0 });
    expect(without).toEqual([]);
    expect(causes.map(({ cause, texts, adGroups: of }) => [cause, texts, of])).toEqual([["shouting", 2, 1]]);
    // The first headline: four titles fit, the long one would end in the air and takes its brand and kind.
    const [first] = ofLines;
    expect([first!.tried, first!.rungs[0], first!.rungs[3]]).toEqual([5, 4, 1]);
    const behind = await copyGroups(db, info, {
      ...{ plan, offset: 0, limit: 10 },
      of: { what: "line", design: "ad-1", at: 0, fate: 4 },
    });
    expect(behind.ok && behind.value.groups.map(({ id }) => id)).toEqual(["A6"]);
    const file = await warningsFile(db, info, plan, "csv");
    expect(file.ok).toBe(true);
  });

  it("lets texts pass that somebody looked at, and only as many as were seen", async () => {
    const wrong = await letPass(db, info, "ann", plan, { cause: "shouting", seen: 7, pass: true });
    expect(wrong.ok ? "" : wrong.error.message).toBe("2 texts are held back for this now, not 7.");
    const done = await letPass(db, info, "ann", plan, { cause: "shouting", seen: 2, pass: true });
    expect(done.ok && done.value.texts).toHaveLength(2);
    expect((await proof()).states.whole).toBe(5);
    if (done.ok) await letPass(db, info, "ann", plan, { cause: "shouting", texts: done.value.texts, pass: false });
    expect((await proof()).states).toMatchObject({ whole: 4, shorter: 1 });
  });

  it("holds an ad back whose page is missing or another item's, until somebody lets it pass", async () => {
    const look = { checkedAt: 5, detail: "The shop answers 404." };
    await db.insert(linkChecks).values([
      { ...look, itemId: "A4", link: "https://shop.example/a4", state: "gone" },
      { ...look, itemId: "A5", link: "https://shop.example/a5", state: "price" },
      // The link was another one then, so what was found there says nothing.
      { ...look, itemId: "A1", link: "https://shop.example/old", state: "gone" },
    ]);
    const { states, causes, pages } = await proof();
    expect(states).toEqual({ none: 0, whole: 3, shorter: 1, held: 1 });
    expect(pages).toEqual({
      ...{ checked: 2, at: 5 },
      faults: [
        { label: "Page missing", items: 1 },
        { label: "Another price on the page", items: 1 },
      ],
    });
    const [page] = causes.filter(({ cause }) => cause === "page");
    expect(page!.shown.map(({ text }) => text)).toEqual(["A4: Page missing. The shop answers 404."]);
    await letPass(db, info, "ann", plan, { cause: "page", seen: 1, pass: true });
    expect((await proof()).states).toMatchObject({ whole: 4, held: 0 });
    await db.delete(linkChecks);
  });

  it("goes into the basket with nothing that is held back, and every line fits", async () => {
    await runToEnd(db, info, "copy-apply", { plan: plan.key });
    const account = await plannedAccount(db);
    const ads = account.all("ad");
    expect(ads).toHaveLength(5);
    const text = ads.flatMap(({ headlines, descriptions }) => [...headlines, ...descriptions]).join("\n");
    expect(text).not.toContain("MEGA");
    for (const { headlines, descriptions } of ads) {
      for (const line of headlines)
        expect(textLength(line, true)).toBeLessThanOrEqual(CHANNEL_LIMITS.textAd.headlines.length);
      for (const line of descriptions)
        expect(textLength(line, true)).toBeLessThanOrEqual(CHANNEL_LIMITS.textAd.descriptions.length);
    }
    const [rake] = ads.filter(({ headlines }) => headlines[0] === "Oak Rake");
    expect(rake).toMatchObject({ link: "https://shop.example/a1", claims: { "copy:price": "€12.90" } });
    expect(account.all("keyword").length).toBeGreaterThan(5);
    // Nobody keeps the same keyword twice, and what is exact in one ad group is kept out of the others.
    const exact = account
      .all("keyword")
      .filter(({ match }) => match === "exact")
      .map(({ text: own }) => own);
    expect(new Set(exact).size).toBe(exact.length);
    expect(account.all("campaign").map(({ kind, origin }) => [kind, origin])).toEqual([["text", `copy:${plan.key}`]]);
  });

  it("is sent, and its ads run in the market", async () => {
    await runToEnd(db, info, "dispatch", { takesBack: null });
    expect((await liveAccount(db)).all("ad")).toHaveLength(5);
    await runToEnd(db, info, "market-run", { from: 20_700, through: 20_730, seed: "s" });
    const rowsOf = await db.$client.execute("SELECT SUM(impressions) AS n FROM item_facts");
    expect(Number(rowsOf.rows[0]!["n"])).toBeGreaterThan(0);
  });

  it("says what a changed price makes of an ad, and leaves lines that people changed", async () => {
    const account = await plannedAccount(db);
    const own = account.all("ad").find(({ headlines }) => headlines[0] === "Green Hose")!;
    const put = { ...own, headlines: ["Our green hose", ...own.headlines.slice(1)] };
    const done = await putRecords(db, "ann", null, { put: [put], remove: [], reason: "Better" }, info.currency);
    expect(done.ok).toBe(true);
    await importFeed({ db, info }, rows("10.90").join("\n"));
    await runToEnd(db, info, "copy-apply", { plan: plan.key });
    const after = await plannedAccount(db);
    expect(after.all("ad").find(({ headlines }) => headlines[0] === "Oak Rake")!.headlines).toContain("Now €10.90");
    expect(after.find("ad", own.key)!.headlines[0]).toBe("Our green hose");
  });

  it("writes figures that changed anew by itself, where few change, and leaves all else to a person", async () => {
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const own = { ...plan, keepUp: { most: 1 } };
    await saveCopyPlan(db, own);
    // The price of one falls, and a sold-out item is there again.
    const moved = rows("8.90").map((row) => row.replace("out of stock,0", "in stock,6"));
    await importFeed({ db, info }, moved.join("\n"));
    const before = await plannedAccount(db);
    const lapsed = await lapsedIn(db, info, before);
    expect(lapsed.map(({ figures }) => figures)).toEqual([[{ field: "copy:price", said: "€10.90", now: "€8.90" }]]);
    await runToEnd(db, info, "copy-keep-up", {});
    const after = await plannedAccount(db);
    expect(after.all("ad").find(({ headlines }) => headlines[0] === "Oak Rake")!.headlines).toContain("Now €8.90");
    expect(after.all("ad")).toHaveLength(before.all("ad").length);
    expect(await lapsedIn(db, info, after)).toEqual([]);
    // What is new is not taken for one that a person took away: writing the plan brings it.
    await runToEnd(db, info, "copy-apply", { plan: plan.key });
    expect((await plannedAccount(db)).all("ad").some(({ headlines }) => headlines[0] === "Soft Hose")).toBe(true);
    // Where more ads change than may go by themselves, all of them wait.
    await importFeed(
      { db, info },
      moved.map((row) => row.replace("22.00", "21.00").replace("24.00", "23.00").replace("15.00", "14.00")).join("\n"),
    );
    await runToEnd(db, info, "copy-keep-up", {});
    expect((await lapsedIn(db, info, await plannedAccount(db))).length).toBe(3);
  });

  it("never says that a line which somebody wrote holds what it does not say", async () => {
    const rake = (account: Account) => account.all("ad").find(({ key }) => key === own.key)!;
    const own = (await plannedAccount(db)).all("ad").find(({ headlines }) => headlines[0] === "Oak Rake")!;
    const write = (headlines: string[], descriptions: string[]) =>
      editAccount(
        db,
        "ann",
        null,
        { action: "ad-lines", keys: [own.key], headlines, descriptions, address: "" },
        info.currency,
      );
    expect((await write(["Our oak rake", "Still €8.90"], own.descriptions)).ok).toBe(true);
    await importFeed({ db, info }, rows("7.90").join("\n"));
    await runToEnd(db, info, "copy-apply", { plan: plan.key });
    const after = await plannedAccount(db);
    expect(rake(after)).toMatchObject({
      headlines: ["Our oak rake", "Still €8.90"],
      claims: { "copy:price": "€8.90" },
    });
    const told = (await lapsedIn(db, info, after)).filter(({ key }) => key === own.key);
    expect(told.map(({ figures }) => figures)).toEqual([[{ field: "copy:price", said: "€8.90", now: "€7.90" }]]);
    // Once no line names the figure, there is nothing to look at.
    expect((await write(["Our oak rake", "Made to last"], ["Order online."])).ok).toBe(true);
    expect(rake(await plannedAccount(db)).claims).toBeUndefined();
  });

  it("says so where conditions leave nobody, a field is gone, or nothing can be said", async () => {
    const nobody = {
      ...plan,
      where: { match: "all" as const, of: [{ field: "title", op: "is" as const, value: "none" }] },
    };
    const empty = await proveCopy(db, info, nobody);
    expect(empty.ok && [empty.value.adGroups, empty.value.going, empty.value.keywords.made]).toEqual([0, 0, 0]);
    const look = await lookAtCopy(db, info, { plan: nobody, find: "" });
    expect(look.ok && [look.value.adGroups, look.value.samples]).toEqual([0, []]);
    await saveCopyPlan(db, { ...nobody, key: "nobody" });
    const job = await runToEnd(db, info, "copy-apply", { plan: "nobody" });
    expect(job.error?.message).toBe("No ad of this plan may go out.");
    await removeCopyPlan(db, "nobody");
    // A chip of a field that is gone leaves its line to the next rung, and is named.
    const [ad] = plan.ads;
    const lines = [{ ...ad!.lines[0]!, rungs: [[field("feed:season")], [field("title")]] }, ...ad!.lines.slice(1)];
    const gone = await proveCopy(db, info, { ...plan, ads: [{ ...ad!, lines }] });
    expect(gone.ok && [gone.value.gone, gone.value.ofLines[0]!.rungs[1]]).toEqual([["feed:season"], 4]);
    const split = await proveCopy(db, info, { ...plan, groupsBy: ["feed:season"] });
    expect(split.ok ? "" : split.error.message).toBe("The catalogue no longer has the field season.");
  });

  it("can be removed and kept again; what it made stays", async () => {
    const removed = await removeCopyPlan(db, plan.key);
    expect(removed.ok && removed.value.name).toBe(plan.name);
    expect([await findCopyPlan(db, plan.key), await listCopyPlans(db)]).toEqual([null, []]);
    expect((await liveAccount(db)).all("ad")).toHaveLength(5);
    expect((await proveCopy(db, info, plan)).ok).toBe(true);
  });
});

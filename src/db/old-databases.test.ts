import { execFile } from "node:child_process";
import { createHash } from "node:crypto";
import { promisify } from "node:util";
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { gzipSync } from "node:zlib";
import { drizzle } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import { createClient } from "@libsql/client";
import { describe, expect, it } from "vitest";
import { field, text } from "@/core/parts/part";
import { returnByChance, STARTING_SET } from "@/core/shelves/ready-made";
import { shelfSetSchema, shelvesOf } from "@/core/shelves/shelf-set";
import { unpackPlan } from "@/server/account/packed-plan";
import { readAccount } from "@/server/account/state";
import { viewBasket } from "@/server/dispatch/basket";
import { startDispatch } from "@/server/dispatch/dispatches";
import { dataDir } from "@/server/settings";
import { listShelfSets } from "@/server/shelves/sets";
import { liveStructure, runWaiting } from "@/server/testing";
import { findWorkspace } from "@/server/workspaces";
import { migrateDatabase, openDatabase } from "./client";

const MIGRATIONS = "src/db/migrations";

/** Makes a database as a release with so many migrations left it. */
async function databaseOf(migrations: number, file: string) {
  const folder = path.join(dataDir(), `migrations-${migrations}`);
  mkdirSync(path.join(folder, "meta"), { recursive: true });
  const journal = JSON.parse(readFileSync(`${MIGRATIONS}/meta/_journal.json`, "utf8")) as {
    entries: { tag: string }[];
  };
  journal.entries = journal.entries.slice(0, migrations);
  writeFileSync(path.join(folder, "meta/_journal.json"), JSON.stringify(journal));
  for (const { tag } of journal.entries) copyFileSync(`${MIGRATIONS}/${tag}.sql`, path.join(folder, `${tag}.sql`));
  const client = createClient({ url: `file:${file}` });
  await migrate(drizzle(client), { migrationsFolder: folder });
  return client;
}

/** What stands in the migrations that went out, as one number. */
function printOf(migrations: number): string {
  const { entries } = JSON.parse(readFileSync(`${MIGRATIONS}/meta/_journal.json`, "utf8")) as {
    entries: { tag: string; when: number }[];
  };
  const hash = createHash("sha256");
  for (const { tag, when } of entries.slice(0, migrations)) {
    hash.update(`${tag} ${when} ${readFileSync(`${MIGRATIONS}/${tag}.sql`, "utf8")}`);
  }
  return hash.digest("hex").slice(0, 16);
}

const CAMPAIGN = {
  ...{ type: "campaign", key: "c", name: "Hot ones", kind: "feed", purpose: "scale", bidding: "fixed", goal: null },
  ...{ dailyBudget: 9_000, status: "on", serveOrder: 3, inStockOnly: true, origin: "by-shelf" },
};

const RECORDS = [
  CAMPAIGN,
  { type: "adGroup", key: "g", campaign: "c", name: "Hot ones", status: "on", bid: 300 },
  ...[{ key: "p", parent: null, role: "split", value: null, by: "shelf:return-tiers" }].map((node) => ({
    ...{ type: "productGroup", adGroup: "g", status: "on", bid: null },
    ...node,
  })),
  {
    type: "productGroup",
    key: "p/Hot",
    adGroup: "g",
    parent: "p",
    role: "unit",
    value: "Hot",
    by: null,
    status: "on",
    bid: 400,
  },
  { type: "labels", key: "l:return-tiers/Hot", shelfSet: "return-tiers", shelf: "Hot", items: [1, 2] },
];

describe("a database made before the account had a room of its own", () => {
  it("opens with its account, its basket and its shelves, and goes on", async () => {
    mkdirSync(dataDir(), { recursive: true });
    const client = await databaseOf(6, path.join(dataDir(), "old.db"));
    writeFileSync(path.join(dataDir(), "workspaces.json"), JSON.stringify(["old"]));
    await client.execute(
      "INSERT INTO workspace (id, name, currency, time_zone, goal, most_loss, market_seed, created_at) VALUES (1, 'Old', 'EUR', 'Europe/Berlin', 3, 0.3, 'old', 0)",
    );
    for (const record of RECORDS) {
      await client.execute({
        sql: "INSERT INTO records VALUES (?, ?, ?)",
        args: [record.key, record.type, JSON.stringify(record)],
      });
    }
    const waiting = { ...CAMPAIGN, dailyBudget: 12_000 };
    await client.execute({
      sql: "INSERT INTO basket (key, before, after, source, reason, at) VALUES ('c', ?, ?, 'by hand', 'More', 1)",
      args: [JSON.stringify(CAMPAIGN), JSON.stringify(waiting)],
    });
    // A set was tiers of one measure then, called by the words of heat, without values of their own.
    const steps = ["hot", "warm", "mild", "cool", "cold"].map((heat, i) => ({
      ...{ key: heat, heat, name: heat[0]!.toUpperCase() + heat.slice(1), least: [5.4, 3.45, 2.4, 1.2, null][i] },
    }));
    const before = JSON.stringify({
      ...{ key: "return-tiers", name: "Return tiers", measure: "threshold", windowDays: 90, goal: 3 },
      ...{ leastClicks: 20, leastOrders: 3, margin: 0.1, patience: 3, tiers: steps },
    });
    await client.execute({
      sql: "INSERT INTO shelf_sets (key, definition) VALUES ('return-tiers', ?)",
      args: [before],
    });
    client.close();

    const { db, info } = (await findWorkspace("old"))!;
    expect(await liveStructure(db)).toEqual(Object.fromEntries(RECORDS.map((record) => [record.key, record])));
    expect((await readAccount(db)).planned.get("c")).toEqual(waiting);
    // What was sent knows shelves by their names; their values are those names, so a new plan meets the old groups.
    const sets = await listShelfSets(db);
    const shelves = sets.find((one) => one.definition.key === "return-tiers");
    expect(sets.find((one) => one.definition.key === STARTING_SET)!.definition).toEqual(returnByChance(info.goal));
    const definition = shelfSetSchema.parse(shelves!.definition);
    expect(shelvesOf(definition).map(({ key, value }) => `${key} ${value}`)).toEqual([
      ...["hot Hot", "warm Warm", "mild Mild", "cool Cool", "cold Cold", "unread Unread"],
    ]);
    expect((await viewBasket(db, info)).changes.map(({ text, reason }) => [text, reason])).toEqual([
      ['Campaign "Hot ones": daily budget €9.00 → €12.00', "More"],
    ]);
    expect((await startDispatch(db, "tester", null)).ok).toBe(true);
    await runWaiting(db, info);
    expect((await liveStructure(db))["c"]).toEqual(waiting);
    expect((await viewBasket(db, info)).total).toBe(0);
  });

  it("is brought up to date once, though the server, its counters and the runner all open it at the same moment", async () => {
    const file = path.join(dataDir(), "at-once.db");
    (await databaseOf(6, file)).close();
    const script = `
      const { openDatabase, migrateDatabase } = await import("./src/db/client.ts");
      const db = await openDatabase(process.argv[1]);
      await migrateDatabase(db);
      const { rows } = await db.$client.execute("SELECT count(*) FROM account_state");
      console.log("states", Number(rows[0][0]));
      process.exit(0);
    `;
    const open = () =>
      promisify(execFile)(process.execPath, ["--import", "tsx", "--input-type=module", "-e", script, `file:${file}`]);
    const opened = await Promise.all([1, 2, 3, 4].map(open));
    expect(opened.map(({ stdout }) => stdout.trim())).toEqual(["states 1", "states 1", "states 1", "states 1"]);
  });
});

describe("the migrations that went out", () => {
  it("are never changed, since databases have gone through them: what is new is one more", () => {
    expect(printOf(14)).toBe("6849a1c36bb60f94");
  });

  it("keep the names of planograms, made of fields now", async () => {
    const file = path.join(dataDir(), "names.db");
    const client = await databaseOf(31, file);
    const typed = 'typed {"kind":"level","level":1}';
    const kept = {
      campaignName: [{ kind: "level", level: 1 }, { kind: "text", text: typed }, { kind: "product" }],
      keywords: { patterns: [[{ kind: "level", level: 7 }]], matches: ["exact"] },
    };
    await client.execute({
      sql: "INSERT INTO planograms (key, definition, saved_at) VALUES ('names', ?, 0)",
      args: [JSON.stringify(kept)],
    });
    client.close();
    const db = await openDatabase(`file:${file}`);
    await migrateDatabase(db);
    const { rows } = await db.$client.execute("SELECT definition FROM planograms");
    expect(JSON.parse(String(rows[0]![0]))).toEqual({
      campaignName: [field("level-1"), text(typed), field("product")],
      keywords: { patterns: [[field("level-7")]], matches: ["exact"] },
    });
  });

  it("turn what a channel may do to bids into a range, in records, the basket, planograms and plans that were sent", async () => {
    const file = path.join(dataDir(), "flex.db");
    const client = await databaseOf(35, file);
    const modes = [
      [
        { mode: "hold", limit: 0.5 },
        { below: 0, above: 0 },
      ],
      [
        { mode: "ease", limit: 0 },
        { below: 0.6, above: 0 },
      ],
      [
        { mode: "stretch", limit: 0.75 },
        { below: 0.6, above: 0.75 },
      ],
    ] as const;
    for (const [i, [flex]] of modes.entries()) {
      const record = { ...CAMPAIGN, key: `c${i}`, flex };
      await client.execute({
        sql: "INSERT INTO records (key, type, body, version) VALUES (?, ?, ?, 1)",
        args: [record.key, "campaign", JSON.stringify(record)],
      });
    }
    await client.execute({
      sql: "INSERT INTO records (key, type, body, version) VALUES ('c', 'campaign', ?, 1)",
      args: [JSON.stringify(CAMPAIGN)],
    });
    const definition = {
      settings: { flex: modes[2][0] },
      each: { one: { flex: modes[1][0], purpose: "rank" }, other: { purpose: "scale" } },
    };
    await client.execute({
      sql: "INSERT INTO planograms (key, definition, saved_at) VALUES ('flex', ?, 0)",
      args: [JSON.stringify(definition)],
    });
    client.close();
    const db = await openDatabase(`file:${file}`);
    await migrateDatabase(db);
    const { rows } = await db.$client.execute("SELECT body FROM records ORDER BY key");
    expect(rows.map((row) => JSON.parse(String(row[0])) as object)).toEqual([
      CAMPAIGN,
      ...modes.map(([, flex], i) => ({ ...CAMPAIGN, key: `c${i}`, flex })),
    ]);
    const plans = await db.$client.execute("SELECT definition FROM planograms");
    expect(JSON.parse(String(plans.rows[0]![0]))).toEqual({
      settings: { flex: modes[2][1] },
      each: { one: { flex: modes[1][1], purpose: "rank" }, other: { purpose: "scale" } },
    });
    const kept = gzipSync(JSON.stringify(modes.map(([flex], i) => ({ ...CAMPAIGN, key: `c${i}`, flex }))));
    expect([...unpackPlan(kept).values()].map((record) => record.type === "campaign" && record.flex)).toEqual(
      modes.map(([, flex]) => flex),
    );
  });

  it("give automatic reach the nearest ground and ring, and plans go on with the keys they had", async () => {
    const file = path.join(dataDir(), "reach.db");
    const client = await databaseOf(38, file);
    const turned = [
      ["tight-terms", "searches-alike"],
      ["wide-terms", "searches-around"],
      ["rival-pages", "pages-alike"],
      ["companion-pages", "pages-beside"],
    ] as const;
    const reach = (kind: string) => ({
      ...{ type: "reach", key: `r:${kind}`, adGroup: "g", kind, status: "on", bid: null },
    });
    for (const [was] of turned) {
      await client.execute({
        sql: "INSERT INTO records (key, type, body, version) VALUES (?, 'reach', ?, 1)",
        args: [`r:${was}`, JSON.stringify(reach(was))],
      });
    }
    await client.execute({
      sql: "INSERT INTO basket (key, after, at) VALUES ('r:new', ?, 1)",
      args: [JSON.stringify(reach("rival-pages"))],
    });
    const plans = [
      { kind: "discovery", apart: true, reach: ["wide-terms", "rival-pages"] },
      { kind: "discovery" },
      { kind: "feed" },
    ];
    for (const [i, plan] of plans.entries()) {
      await client.execute({
        sql: "INSERT INTO planograms (key, definition, saved_at) VALUES (?, ?, 0)",
        args: [`plan-${i}`, JSON.stringify(plan)],
      });
    }
    client.close();
    const db = await openDatabase(`file:${file}`);
    await migrateDatabase(db);
    const read = async (sql: string) =>
      (await db.$client.execute(sql)).rows.map((row) => JSON.parse(String(row[0])) as object);
    const after = turned.map(([was, now]) => ({ ...reach(was), kind: now }));
    expect(new Set(await read("SELECT body FROM records"))).toEqual(new Set(after));
    expect(await read("SELECT after FROM basket")).toEqual([{ ...reach("rival-pages"), kind: "pages-alike" }]);
    expect(await read("SELECT definition FROM planograms ORDER BY key")).toEqual([
      { ...plans[0], reach: ["searches-around", "pages-alike"], oldReachKeys: true },
      { ...plans[1], reach: turned.map(([, now]) => now), oldReachKeys: true },
      plans[2],
    ]);
    const kept = gzipSync(JSON.stringify(turned.map(([was]) => reach(was))));
    expect([...unpackPlan(kept).values()]).toEqual(after);
  });

  it.each([
    ["with the index they had at first", []],
    [
      "with the indexes of one day's builds",
      [
        "DROP INDEX window_facts_by_kind",
        "CREATE INDEX window_facts_from ON window_facts (from_day)",
        "CREATE INDEX window_facts_to ON window_facts (to_day)",
      ],
    ],
  ])("bring facts over several days to where they are now, %s", async (_, statements) => {
    const file = path.join(dataDir(), `facts-${statements.length}.db`);
    const client = await databaseOf(10, file);
    for (const statement of statements) await client.execute(statement);
    client.close();
    const db = await openDatabase(`file:${file}`);
    await migrateDatabase(db);
    const { rows } = await db.$client.execute(
      "SELECT name FROM sqlite_master WHERE type = 'index' AND tbl_name = 'window_facts' ORDER BY name",
    );
    expect(rows.map((row) => row[0])).toEqual(["window_facts_from", "window_facts_to"]);
  });
});

// npm run bench -- --only=stocktake [--salt=abc] [--worlds=40] [--items=240]: accounts with faults put into them, singly and
// together, and sound ones between, in fresh worlds; what a stocktake finds of them and what it finds beside the truth:
// bench/out/stocktake.md and .json.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { Account, type Structure } from "@/core/account/account";
import { simulateDay } from "@/core/market/day";
import { firstState } from "@/core/market/day-types";
import { planAccount } from "@/core/market/running-account";
import { randomFrom } from "@/core/kit/random";
import { findFaults } from "@/core/stocktake/faults";
import { FAULTS, type Finding } from "@/core/stocktake/finding";
import type { Material } from "@/core/stocktake/material";
import { loadWorld } from "@/server/market/world";
import { forgetSettings } from "@/server/settings";
import { loadMaterial } from "@/server/stocktake/material";
import { importFeed, runAccount } from "@/server/testing";
import { createWorkspace, findWorkspace } from "@/server/workspaces";
import { read } from "@/server/results/reports/testing";
import { formatDay } from "@/core/kit/days";
import {
  drawShop,
  feedOf,
  NOUNS_WITH_WORDS,
  PLANTED,
  plantFaults,
  type Bids,
  type Planted,
  type ShopItem,
} from "./faulty-account";
import { figure, type Figure } from "./measure";
import { countOption, SALT } from "./salt";

const FIRST = 20_500;
const DAYS = 84;
const SCOUT_DAYS = 12;
const GOAL = 3;
/** Bids that leave so much above the goal on average make a sound account. */
const SOUND = 1.6;

type Workspace = NonNullable<Awaited<ReturnType<typeof findWorkspace>>>;

/** Expected results of some days, without luck, by whatever a finding may name. */
interface Truth {
  cost: number;
  revenue: number;
}

class Expected {
  private readonly by = new Map<string, Truth>();

  add(kind: string, key: string, cost: number, revenue: number): void {
    const known = this.by.get(`${kind}/${key}`);
    if (known) {
      known.cost += cost;
      known.revenue += revenue;
    } else this.by.set(`${kind}/${key}`, { cost, revenue });
  }

  of(kind: string, key: string): Truth | null {
    return this.by.get(`${kind}/${key}`) ?? null;
  }
}

async function expectedOf({ db, info }: Workspace, structure: Structure, days: number): Promise<Expected> {
  const account = Account.fromStructure(structure);
  const loaded = (await loadWorld(db, info, account))!;
  const plan = planAccount(loaded.world, account, loaded.catalogue);
  const ids = loaded.catalogue.columns["id"]!;
  if (ids.kind !== "text") throw new Error("IDs are no text");
  const idOf = (itemNo: number) => ids.values[ids.codes[itemNo - 1]!]!;
  const expected = new Expected();
  let state = firstState();
  for (let day = FIRST; day < FIRST + days; day++) {
    const result = simulateDay(loaded.world, plan, day, state, { noise: false, seed: "truth" });
    state = result.state;
    const lines = [
      ...result.facts,
      ...result.arrived.map((late) => ({ ...late, cost: 0 })),
      // What is ordered and not seen yet belongs to its click all the same.
      ...(day === FIRST + days - 1 ? state.late.map((late) => ({ ...late, cost: 0 })) : []),
    ];
    for (const { campaign, target, term, slot, itemNo, cost, revenue } of lines) {
      const keyword = account.find("keyword", target);
      expected.add("whole", "", cost, revenue);
      expected.add("campaign", campaign, cost, revenue);
      expected.add("item", idOf(itemNo), cost, revenue);
      expected.add("term", term, cost, revenue);
      expected.add("slot", String(slot), cost, revenue);
      expected.add("match", keyword?.match ?? "", cost, revenue);
    }
  }
  return expected;
}

/** Bids at which everything brings more than the goal, worked out from a few days at a low flat bid without luck. */
async function soundBids(workspace: Workspace, shop: readonly ShopItem[]): Promise<{ bids: Bids; expected: Expected }> {
  const flat = 300;
  const nouns = [...new Set(shop.map(({ noun }) => noun))];
  const all = (bid: number) => Object.fromEntries(nouns.map((noun) => [noun, bid]));
  let bids: Bids = { feed: all(flat), keyword: all(flat) };
  let expected = new Expected();
  for (let round = 0; round < 3; round++) {
    const { account } = plantFaults(shop, bids, new Set(), { full: all(0), sellers: [], seed: "" });
    expected = await expectedOf(workspace, account, SCOUT_DAYS);
    const better = (key: string, bid: number) => {
      const { cost = 0, revenue = 0 } = expected.of("campaign", key) ?? {};
      const roas = cost > 0 ? revenue / cost : GOAL * SOUND;
      return Math.min(3 * bid, Math.max(20, (bid * roas) / (GOAL * SOUND)));
    };
    bids = {
      feed: Object.fromEntries(nouns.map((noun) => [noun, better(`c:${noun}`, bids.feed[noun]!)])),
      keyword: Object.fromEntries(
        nouns.map((noun) => [
          noun,
          NOUNS_WITH_WORDS.includes(noun) ? better(`c:words-${noun}`, bids.keyword[noun]!) : bids.feed[noun]!,
        ]),
      ),
    };
  }
  return { bids, expected };
}

/** Takes the orders of the last days out of the reports, as when a shop no longer counts them. */
const BROKEN_DAYS = 9;
async function breakTracking({ db, info }: Workspace): Promise<void> {
  const { rows } = await db.$client.execute({
    sql: `SELECT f.day, c.text AS campaign, g.text AS ad_group, i.item_id AS item, sum(f.impressions) AS impressions,
        sum(f.clicks) AS clicks, sum(f.cost) AS cost
      FROM item_facts f JOIN codes c ON c.no = f.campaign AND c.kind = 'campaign'
      JOIN codes g ON g.no = f.ad_group AND g.kind = 'adGroup'
      JOIN items i ON i.item_no = f.item_no AND i.to_rev IS NULL
      WHERE f.day > ? GROUP BY 1, 2, 3, 4`,
    args: [FIRST + DAYS - 1 - BROKEN_DAYS],
  });
  const lines = rows.map(
    ({ day, campaign, ad_group, item, impressions, clicks, cost }) =>
      `${formatDay(Number(day))},${String(campaign)},${String(ad_group)},${String(item)},${Number(impressions)},${Number(clicks)},${(Number(cost) / 1000).toFixed(3)},0,0`,
  );
  const done = await read(
    { db, info },
    "item",
    `day,campaign,ad group,item id,impressions,clicks,cost,orders,revenue\n${lines.join("\n")}\n`,
  );
  if (done.state !== "done") throw new Error(`the report without orders was not read: ${JSON.stringify(done.error)}`);
}

interface Judged {
  world: number;
  planted: Planted[];
  /** Planted ones that are no faults: what they are about costs next to nothing, or pays. */
  cameToNothing: Planted[];
  missed: Planted[];
  /** Findings whose truth is known, and those that are not so. */
  told: number;
  wrong: { fault: string; says: string }[];
}

async function judgeWorld(at: number, items: number, planted: Planted[]): Promise<Judged> {
  const seed = `${SALT}-${at}`;
  const slug = `w-${SALT}-${at}`;
  const settings = { slug, name: "Lights", currency: "EUR", timeZone: "UTC", goal: GOAL } as const;
  const made = await createWorkspace(settings);
  if (!made.ok) throw new Error(made.error.message);
  const workspace = (await findWorkspace(slug))!;
  const { db } = workspace;
  const shop = drawShop(items, seed);
  await importFeed(workspace, feedOf(shop));
  const { bids, expected: scouted } = await soundBids(workspace, shop);
  const sales = (id: string) => scouted.of("item", id)?.revenue ?? 0;
  const sellers = shop.map(({ id }) => id).sort((a, b) => sales(b) - sales(a));
  const nouns = [...new Set(shop.map(({ noun }) => noun))];
  const full = Object.fromEntries(
    nouns.map((noun) => [noun, (scouted.of("campaign", `c:${noun}`)?.cost ?? 0) / SCOUT_DAYS]),
  );
  const faulty = plantFaults(shop, bids, new Set(planted), { full, sellers, seed });
  await runAccount(workspace, faulty.account, { from: FIRST, through: FIRST + DAYS - 1, seed });
  const truth = await expectedOf(workspace, faulty.account, DAYS);
  if (faulty.soldOutLate.length > 0) {
    const gone = new Set(faulty.soldOutLate);
    await importFeed(workspace, feedOf(shop.map((item) => ({ ...item, soldOut: gone.has(item.id) }))));
  }
  if (faulty.breaksTracking) await breakTracking(workspace);
  const goal = GOAL * faulty.goalTimes;
  await db.$client.execute({ sql: "UPDATE workspace SET goal = ?", args: [goal] });
  const now = (await findWorkspace(slug))!;
  const loaded = await loadMaterial(now.db, now.info, null, async () => {});
  if (!loaded.ok) throw new Error(loaded.error.message);
  const findings = findFaults(loaded.value.material);
  const real = planted.filter((fault) => isThere(fault, { faulty, truth, goal, material: loaded.value.material }));
  const found = new Set(findings.map(({ fault }) => fault));
  const judged = findings.flatMap((finding) => {
    const isTrue = judge(finding, { planted, truth, goal });
    return isTrue === null ? [] : [{ finding, isTrue }];
  });
  return {
    ...{ world: at, planted: real, cameToNothing: planted.filter((fault) => !real.includes(fault)) },
    missed: real.filter((fault) => !found.has(fault)),
    told: judged.length,
    wrong: judged
      .filter(({ isTrue }) => !isTrue)
      .map(({ finding }) => ({ fault: finding.fault, says: JSON.stringify(finding.says).slice(0, 400) })),
  };
}

/** From this share of all spend on something is a fault that costs money; below it is none, however little it brings. */
const LEAST_SHARE = 0.01;
/** As far below the goal, or a campaign without money as far above it. */
const CLEARLY = 1.15;
/** A campaign is short of money that runs out of it on such a share of the last days. */
const OFTEN_DRY = 0.5;

/** Whether what was planted became a fault. */
function isThere(
  fault: Planted,
  {
    faulty,
    truth,
    goal,
    material,
  }: { faulty: ReturnType<typeof plantFaults>; truth: Expected; goal: number; material: Material },
): boolean {
  // A brand's keyword that nobody searched for mixes nothing.
  if (fault === "brand-mix")
    return (material.levels.matchType ?? []).some(({ key, sums }) => key === "phrase" && sums.cost > 0);
  const whole = truth.of("whole", "")!;
  if (fault === "below-goal") return whole.revenue / whole.cost < goal / CLEARLY;
  const mark = faulty.marks[fault];
  if (!mark) return true;
  let [cost, revenue] = [0, 0];
  for (const key of mark.keys) {
    const known = truth.of(mark.kind, key);
    cost += known?.cost ?? 0;
    revenue += known?.revenue ?? 0;
  }
  if (cost < LEAST_SHARE * whole.cost) return false;
  const isDry = (material.levels.campaign ?? []).some(
    ({ key, dryDays }) => mark.keys.includes(key) && (dryDays ?? 0) >= OFTEN_DRY * material.purseDays,
  );
  return fault === "dry"
    ? material.purseDays > 0 && isDry && revenue / cost > goal * CLEARLY
    : revenue / cost < goal / CLEARLY;
}

/** Faults that are in the account only where somebody put them there. */
const ONLY_PLANTED: ReadonlySet<string> = new Set([
  ...["leak", "homeless", "sold-out", "sold-out-sellers", "tracking", "name-clash", "same-keyword", "dry"],
]);

/** Whether a finding is so; null where what is true of it is not known here. */
function judge(
  { fault, about }: Finding,
  { planted, truth, goal }: { planted: Planted[]; truth: Expected; goal: number },
): boolean | null {
  // Best sellers that are gone are sold out too.
  if (fault === "sold-out" && planted.includes("sold-out-sellers")) return true;
  // And some of what is sold out may sell best, which luck decides.
  if (fault === "sold-out-sellers" && planted.includes("sold-out")) return null;
  if (ONLY_PLANTED.has(fault)) return (planted as string[]).includes(fault);
  // With the orders of its last days gone, the whole and its parts are as weak as the reports say.
  if (planted.includes("tracking")) return null;
  const kind = { "weak-campaign": "campaign", "waste-items": "item", "waste-terms": "term", "weak-match": "match" }[
    fault as string
  ];
  if (fault === "below-goal") {
    const { cost, revenue } = truth.of("whole", "")!;
    return revenue / cost < goal;
  }
  if (!kind) return null;
  // What is named together is said to bring less than the goal together.
  let [cost, revenue] = [0, 0];
  for (const { key } of about) {
    const known = truth.of(kind, key);
    cost += known?.cost ?? 0;
    revenue += known?.revenue ?? 0;
  }
  return cost > 0 ? revenue / cost < goal : null;
}

/** What goes into each world: nothing into some, each fault by itself into others, several into the rest. Broken counting hides all others. */
export function plantingOf(at: number, worlds: number): Planted[] {
  const sound = Math.round(worlds * 0.25);
  if (at < sound) return [];
  if (at < sound + PLANTED.length) return [PLANTED[at - sound]!];
  const random = randomFrom("planting", SALT, String(at));
  return (
    PLANTED.filter((fault) => fault !== "tracking")
      .map((fault) => ({ fault, at: random() }))
      .sort((one, other) => one.at - other.at)
      .map(({ fault }) => fault)
      .slice(0, 4)
      // Where an open remainder serves all that others leave, nothing is without a home.
      .filter((fault, _, all) => fault !== "homeless" || !all.includes("leak"))
  );
}

/** Runs all worlds and writes what became of them. */
export async function benchStocktake(): Promise<Figure[]> {
  const worlds = countOption("worlds", 40);
  const items = countOption("items", 240);
  const only = process.argv
    .find((argument) => argument.startsWith("--world="))
    ?.slice(8)
    .split(",");
  const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-stocktake-"));
  process.env["HOTSHELF_DATA_DIR"] = folder;
  forgetSettings();
  const judged: Judged[] = [];
  const began = Date.now();
  mkdirSync("bench/out", { recursive: true });
  try {
    for (let at = 0; at < worlds; at++) {
      if (only !== undefined && !only.includes(String(at))) continue;
      const one = await judgeWorld(at, items, plantingOf(at, worlds));
      judged.push(one);
      console.log(
        `world ${at}: planted ${one.planted.join(", ") || "nothing"}; came to nothing ${one.cameToNothing.join(", ") || "none"}; missed ${one.missed.join(", ") || "none"}; wrong ${one.wrong.map(({ fault }) => fault).join(", ") || "none"} of ${one.told}`,
      );
      for (const { fault, says } of one.wrong) console.log(`  ${fault}: ${says}`);
      writeFileSync("bench/out/stocktake.json", JSON.stringify({ salt: SALT, judged }, null, 1));
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  writeFileSync("bench/out/stocktake.md", tableOf(judged));
  const planted = judged.reduce((sum, one) => sum + one.planted.length, 0);
  const missed = judged.reduce((sum, one) => sum + one.missed.length, 0);
  const told = judged.reduce((sum, one) => sum + one.told, 0);
  const wrong = judged.reduce((sum, one) => sum + one.wrong.length, 0);
  const more = `${planted - missed} of ${planted} planted found; ${wrong} of ${told} findings that can be judged are not so`;
  const ms = (Date.now() - began) / Math.max(1, judged.length);
  return [
    figure(
      "stocktake of faulty accounts, each",
      `${judged.length} worlds`,
      ms,
      "",
      null,
      "95 % found, 5 % wrong",
      more,
    ),
  ];
}

function tableOf(judged: readonly Judged[]): string {
  const lines = PLANTED.map((fault) => {
    const where = judged.filter(({ planted }) => planted.includes(fault));
    const found = where.filter(({ missed }) => !missed.includes(fault)).length;
    const wrong = judged.flatMap((one) => one.wrong).filter((one) => one.fault === fault).length;
    return `| ${FAULTS[fault]} | ${where.length} | ${found} | ${wrong} |`;
  });
  return `| Fault | There | Found | Wrongly told |\n| --- | ---: | ---: | ---: |\n${lines.join("\n")}\n`;
}

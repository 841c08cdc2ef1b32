// npm run bench -- --only=decisions [--salt=abc] [--worlds=12] [--items=300] [--policies=leave,moves]: how much of what ads can
// add policies reach that act each week on reports alone, in worlds drawn from a salt; each proposer left out in turn.
import { mkdirSync, writeFileSync } from "node:fs";
import { Account } from "@/core/account/account";
import { afterPauses, makeEdit, type Edit } from "@/core/account/acts";
import { firstHomes } from "@/core/account/homes";
import type { FactsOf } from "@/core/account/act";
import { quantile } from "@/core/kit/stats";
import { randomFrom } from "@/core/kit/random";
import { bestContribution } from "@/core/market/best-contribution";
import { simulateDay } from "@/core/market/day";
import { firstState, type MarketState } from "@/core/market/day-types";
import { contributionOf, daysWithoutAds, truthOfAccount, type TrueDay } from "@/core/market/judge";
import { natureOf } from "@/core/market/nature";
import { planAccount } from "@/core/market/running-account";
import { lightShop, startingAccount } from "@/core/market/seen-world";
import { UpperBound } from "@/core/market/upper-bound";
import { buildWorld } from "@/core/market/world";
import { editOfMoves } from "@/core/moves/accept";
import type { Ground } from "@/core/moves/ground";
import { proposeMoves, PROPOSER_KEYS, type ProposerKey } from "@/core/proposers/proposers";
import { Reports } from "./decision-ground";
import { figure, type Figure } from "./measure";
import { countOption, SALT } from "./salt";
import { thumbs } from "./thumbs";

const FIRST = 20_500;
const BEFORE = 60;
const DAYS = 90;
const EVERY = 7;

/** What a policy makes of an account in a week, by what reports say. */
export type Policy = (ground: Ground, week: number) => Account;

function acceptAll(leaveOut: ReadonlySet<ProposerKey>): Policy {
  return (ground) => {
    const edit = editOfMoves(proposeMoves(ground, leaveOut));
    if (!edit) return ground.account;
    const made = makeEdit(ground.account, edit, factsOf(ground, edit), ground.currency);
    if (!made.ok) throw new Error(`${made.error.code}: ${made.error.message}`);
    return made.value.after();
  };
}

function factsOf(ground: Ground, edit: Edit): FactsOf {
  const after = afterPauses(ground.account, edit);
  const isOn = (key: string) => after.find("campaign", key)?.status === "on";
  const homes = ground.homes.filter(({ campaign }) => isOn(campaign.key));
  const first = firstHomes(homes, ground.rows);
  const rowOf = new Map(Array.from({ length: ground.rows }, (_, row) => [ground.idOf(row), row]));
  return (item) => {
    const row = rowOf.get(item);
    if (row === undefined) return null;
    const home = homes[first[row]!];
    return { home: home ? { group: home.group.key, bid: home.bid } : null, family: "", title: item };
  };
}

export const POLICIES: Record<string, Policy> = {
  leave: ({ account }) => account,
  thumbs,
  moves: acceptAll(new Set()),
  ...Object.fromEntries(PROPOSER_KEYS.map((key) => [`without ${key}`, acceptAll(new Set([key]))])),
};

/** A shop's margins, a row: between a quarter and more than half. */
function marginsOf(items: number, seed: string): Float64Array {
  const random = randomFrom("margins", seed);
  return Float64Array.from({ length: items }, () => 0.25 + 0.3 * random());
}

/** What policies reach in a world: mills of contribution a day, beside what no account can pass and the best that is known. */
export interface WorldResult {
  salt: string;
  items: number;
  limit: number;
  bestFound: number;
  policies: Record<string, number>;
}

/** @param bestOf mills a day of the best that is known, where it is kept from before */
export function judgeWorld(salt: string, at: number, items: number, names: string[], bestOf?: number): WorldResult {
  const seed = `${salt} ${at}`;
  const shop = lightShop(items, seed);
  const world = buildWorld(shop, seed, undefined, natureOf(seed));
  const margins = marginsOf(items, seed);
  const begins = FIRST + BEFORE;
  const ends = begins + DAYS - 1;
  const without = daysWithoutAds(world, shop, begins, ends);
  const run = (policy: Policy): number => {
    const reports = new Reports(world, shop, margins);
    let account = Account.fromStructure(startingAccount("untidy", shop, seed));
    let [shown, certain]: MarketState[] = [firstState(), firstState()];
    const days: TrueDay[] = [];
    for (let day = FIRST; day <= ends; day++) {
      if (day >= begins && (day - begins) % EVERY === 0)
        account = policy(reports.ground(account, day), (day - begins) / EVERY);
      const ready = planAccount(world, account, shop);
      const result = simulateDay(world, ready, day, shown!, { noise: true, seed });
      shown = result.state;
      reports.see(day, result);
      const truth = truthOfAccount(world, ready, day, day, certain!);
      certain = truth.state;
      if (day >= begins) days.push(truth.days[0]!);
    }
    return contributionOf(world, days, without, margins) / DAYS;
  };
  const policies = Object.fromEntries(names.map((name) => [name, run(POLICIES[name]!)]));
  const bestFound = bestOf ?? bestContribution(world, shop, margins, begins, ends).contribution / DAYS;
  const limit = new UpperBound(world, { margins }).contribution(begins, ends, 1e12) / DAYS;
  return { salt, items, limit, bestFound, policies };
}

/** The table of results, as it stands in the README. */
export function tableOf(results: WorldResult[]): string {
  const names = Object.keys(results[0]!.policies);
  const shares = (name: string) => results.map(({ bestFound, policies }) => policies[name]! / bestFound);
  const row = (name: string) => {
    const all = shares(name);
    return `| ${name} | ${(quantile(all, 0.5) as number).toFixed(2)} | ${Math.min(...all).toFixed(2)} | ${Math.max(...all).toFixed(2)} |`;
  };
  return [
    "| policy | of the best found, median | worst world | best world |",
    "| --- | ---: | ---: | ---: |",
    ...names.map(row),
  ].join("\n");
}

/** Policies asked for as `--policies=leave,moves`; all of them where none are. */
function policiesAsked(): string[] {
  const asked = process.argv.find((argument) => argument.startsWith("--policies="))?.slice(11);
  const names = asked?.split(",") ?? Object.keys(POLICIES);
  const unknown = names.find((name) => !POLICIES[name]);
  if (unknown) throw new Error(`There is no policy “${unknown}”: ${Object.keys(POLICIES).join(", ")}.`);
  return names;
}

/** Not a speed: what policies reach. Writes `bench/out/decisions.json` and `.md`. */
export function benchDecisions(): Figure[] {
  const [worlds, items, names] = [countOption("worlds", 12), countOption("items", 300), policiesAsked()];
  const start = performance.now();
  const results = Array.from({ length: worlds }, (_, at) => {
    const result = judgeWorld(SALT, at, items, names);
    console.error(`decisions: world ${at + 1} of ${worlds}`);
    return result;
  });
  const ms = performance.now() - start;
  mkdirSync("bench/out", { recursive: true });
  writeFileSync("bench/out/decisions.json", JSON.stringify(results, null, 1));
  writeFileSync("bench/out/decisions.md", `Salt ${SALT}, ${worlds} worlds of ${items} items.\n\n${tableOf(results)}\n`);
  const shares = results.map(({ bestFound, policies }) => policies["moves"]! / bestFound);
  const more = names.includes("moves")
    ? `moves reach ${(quantile(shares, 0.5) as number).toFixed(2)} of the best found in the median, ${Math.min(...shares).toFixed(2)} at worst; salt ${SALT}`
    : `salt ${SALT}`;
  return [figure("decisions by policy", `${worlds} worlds`, ms, "", null, "0.9 in the median, 0.6 at worst", more)];
}

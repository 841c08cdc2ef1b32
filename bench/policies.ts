import { writeFileSync } from "node:fs";
import { bestContribution } from "@/core/market/best-contribution";
import { natureOf } from "@/core/market/nature";
import { lossesOfStrangers, policyName, runPolicies, type PolicyResult } from "@/core/market/policies";
import { lightShop } from "@/core/market/seen-world";
import { UpperBound } from "@/core/market/upper-bound";
import { buildWorld } from "@/core/market/world";
import { figure, type Figure } from "./measure";
import { countOption, SALT } from "./salt";

const DAY = 20_700;
const MARGIN = 0.4;

/**
 * Not a speed: which of a grid of policies is best in each of some worlds, what another world's best loses there, and how
 * much of the limit a search for contribution finds. Writes `bench/out/policies.md`.
 */
export function benchPolicies(): Figure[] {
  const worlds = countOption("worlds", 12);
  const items = countOption("items", 300);
  const margins = new Float64Array(items).fill(MARGIN);
  const all: PolicyResult[][] = [];
  const lines: string[] = [];
  const start = performance.now();
  for (let at = 0; at < worlds; at++) {
    const seed = `${SALT} ${at}`;
    const shop = lightShop(items, seed);
    const nature = natureOf(seed);
    const world = buildWorld(shop, seed, undefined, nature);
    const results = runPolicies(world, shop, margins, DAY, DAY);
    all.push(results);
    const best = results.reduce((a, b) => (b.contribution > a.contribution ? b : a));
    const found = bestContribution(world, shop, margins, DAY, DAY);
    const limit = new UpperBound(world, { margins }).contribution(DAY, DAY, 1e12);
    const euros = (mills: number) => (mills / 1000).toFixed(1);
    lines.push(
      `| ${at + 1} | ${policyName(best.policy)} | ${euros(best.contribution)} | ${(best.revenue / best.cost).toFixed(1)} | ${((100 * best.held) / best.contribution).toFixed(1)} % | ${nature.money.toFixed(2)} | ${nature.strictness > 1 ? "yes" : "no"} | ${euros(found.contribution)} | ${(found.contribution / limit).toFixed(2)} |`,
    );
  }
  const ms = performance.now() - start;
  const losses = lossesOfStrangers(all).sort((a, b) => a - b);
  const [median, worst] = [losses[losses.length >> 1]!, losses.at(-1)!];
  const different = new Set(lines.map((line) => line.split("|")[2])).size;
  writeFileSync(
    "bench/out/policies.md",
    [
      `Salt ${SALT}, ${worlds} worlds of ${items} items.`,
      "",
      "| world | best policy | contribution a day | ROAS | of it own pages held | money | goal binds | most found, any money | of the limit |",
      "| ---: | --- | ---: | ---: | ---: | ---: | --- | ---: | ---: |",
      ...lines,
      "",
    ].join("\n"),
  );
  const more = `${different} different best policies; another world's best loses ${(100 * median).toFixed(0)} % in the median, ${(100 * worst).toFixed(0)} % at worst; salt ${SALT}`;
  return [
    figure("policies by world", `${worlds} worlds`, ms, "", null, "loses 5 % in the median, 15 % at worst", more),
  ];
}

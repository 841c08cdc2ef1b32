import { describe, expect, it } from "vitest";
import { returnByChance, returnTiers } from "../shelves/ready-made";
import { MIDDLING } from "./nature";
import { seeWorld } from "./seen-world";
import { judgeTiers } from "./tiers-judged";

/** `docs/market.md` has the figures of larger worlds; what must hold is asked here. */
describe("tiers on a world of the market", () => {
  const world = seeWorld(1500, 30, "tiers", MIDDLING);
  const goal = 3;
  const byChance = judgeTiers(returnByChance(goal), world);
  const raw = judgeTiers(returnTiers(goal), world);

  it("by chance go on to earn what they promise, in their order; by raw return the outer ones do not", () => {
    const [hot, warm, mild, cool, cold] = byChance.map(({ truth }) => truth);
    expect(hot).toBeGreaterThan(warm!);
    expect(warm).toBeGreaterThan(mild!);
    expect(mild).toBeGreaterThan(cool!);
    expect(cool).toBeGreaterThan(cold!);
    // The top tier by raw return falls back towards the middle much further than the top tier by chance.
    const fallen = ({ seen, truth }: { seen: number; truth: number }) => truth / seen;
    expect(fallen(byChance[0]!)).toBeGreaterThan(fallen(raw[0]!) + 0.1);
    expect(fallen(raw[0]!)).toBeLessThan(0.85);
  });

  it("by chance hold what their words say: nearly all hot items reach the goal, hardly any cold one", () => {
    expect(byChance[0]!.reaching).toBeGreaterThan(0.85);
    expect(byChance[4]!.reaching).toBeLessThan(0.1);
    expect(byChance[0]!.reaching).toBeGreaterThan(raw[0]!.reaching);
  });
});

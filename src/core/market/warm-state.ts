import type { Day } from "../kit/days";
import { settledPressure } from "./answer";
import { simulateDay } from "./day";
import { firstState, type MarketState } from "./day-types";
import type { MarketAccount } from "./running-account";
import type { World } from "./world-types";

/**
 * The state of a market in which an account has long run: rivals have answered it. Found by running its first day, and
 * again under three quarters of the answer that this called for: halfway from there lies near the point at which both rest.
 */
export function warmState(world: World, account: MarketAccount, day: Day): MarketState {
  if (world.nature.answer === 0) return firstState();
  const after = (pressure: MarketState["pressure"]) =>
    settledPressure(
      pressure ?? {},
      simulateDay(world, account, day, { ...firstState(), pressure: pressure ?? {} }, TRUTH).state.pressure ?? {},
    );
  const first = after({});
  const most = Object.fromEntries(Object.entries(first).map(([name, value]) => [name, 0.75 * value]));
  const second = after(most);
  const between = Object.entries(most).map(([name, value]) => [name, (value + (second[name] ?? 0)) / 2]);
  return { ...firstState(), pressure: Object.fromEntries(between) as Record<string, number> };
}

const TRUTH = { noise: false, seed: "truth" } as const;

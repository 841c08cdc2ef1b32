import { describe, expect, it } from "vitest";
import { goalInForce } from "./goals";

describe("the goal in force", () => {
  it.each([
    [{ workspace: 3 }, 3, "workspace"],
    [{ workspace: 3, shelf: 5 }, 5, "shelf"],
    [{ workspace: 3, shelf: 2 }, 2, "shelf"],
    [{ workspace: 3, shelf: 5, campaign: 1.5 }, 1.5, "campaign"],
    [{ workspace: 3, shelf: null, campaign: null }, 3, "workspace"],
    [{ workspace: 3, breakEven: 4 }, 4, "break-even"],
    [{ workspace: 3, breakEven: 2 }, 3, "workspace"],
    [{ workspace: 3, campaign: 1.5, breakEven: 2 }, 2, "break-even"],
    [{ workspace: 3, breakEven: NaN }, 3, "workspace"],
    [{ workspace: 3, breakEven: Infinity }, Infinity, "break-even"],
  ] as const)("of %o is %d, from the %s", (goals, goal, from) => {
    expect(goalInForce(goals)).toEqual({ goal, from });
  });
});

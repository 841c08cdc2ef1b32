import { describe, expect, it } from "vitest";
import { poissonTail, sureAmong } from "./false-alarms";

describe("few orders", () => {
  it("have the chance that tables of the Poisson distribution give", () => {
    expect(poissonTail(0, 3)).toBeCloseTo(0.0498, 4);
    expect(poissonTail(2, 3)).toBeCloseTo(0.4232, 4);
    expect(poissonTail(5, 10)).toBeCloseTo(0.0671, 4);
    expect(poissonTail(50, 3)).toBe(1);
  });
});

describe("many looked at together", () => {
  it("are sure by the step-up rule: the last rank whose chance lies under its line, and all before it", () => {
    // Lines at 0.1: .02, .04, .06, .08, .10; the third lies above its line, the fourth below, so four are sure.
    expect(sureAmong([0.07, 0.001, 0.9, 0.03, 0.062], 0.1)).toEqual([true, true, false, true, true]);
    expect(sureAmong([0.5, 0.3], 0.1)).toEqual([false, false]);
    expect(sureAmong([], 0.1)).toEqual([]);
  });
});

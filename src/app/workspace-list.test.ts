import { describe, expect, it } from "vitest";
import { asksInWords, type Standing } from "./workspace-list";

const QUIET: Standing = {
  till: {
    ...{ goal: 3, roas: 4, cost: 0, budget: 0, lastDayCost: null, lastDayBudget: null, source: null },
    ...{ withoutHome: 0, items: 10, leaks: 0, feedReadAt: null, resultsTo: null, basket: 0, version: 1 },
  },
  asks: {
    pausesDue: [],
    exclusionsDue: { all: 0, waiting: 0 },
    placementsDue: null,
    experimentsOver: [],
    runDry: [],
    alerts: [],
    faults: [],
  },
};

describe("what a workspace asks for", () => {
  it("is told in a few words each, and not at all where there is none", () => {
    expect(asksInWords(QUIET)).toEqual([]);
    const fault = (items: number) => ({ code: "x", label: "X", items, cost: 1 });
    const dry = { key: "c:a", name: "A", days: 9, of: 14, hour: 14 };
    expect(
      asksInWords({
        till: { ...QUIET.till, leaks: 1, basket: 2, withoutHome: 1234 },
        asks: { ...QUIET.asks, runDry: [dry], faults: [fault(2), fault(3)], exclusionsDue: { all: 1, waiting: 1 } },
      }),
    ).toEqual([
      ...["1 leak", "1,234 items without a home", "1 campaign out of money", "5 items with costly faults"],
      ...["1 exclusion to look at", "2 changes in the basket"],
    ]);
  });
});

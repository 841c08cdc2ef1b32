import { describe, expect, it } from "vitest";
import { noSums } from "@/core/kit/metrics";
import { mills } from "@/core/kit/money";
import type { AccountLine } from "@/server/planogram/workbench";
import { figuresOf, LINE_METRICS, workbenchRows } from "./workbench-rows";

const line = (key: string, parent: string | null, change: Partial<AccountLine> = {}): AccountLine =>
  ({
    ...{
      key,
      parent,
      name: key,
      level: parent === null ? "campaign" : parent.startsWith("c") ? "adGroup" : "productGroup",
    },
    ...{ status: "on", items: 1, dailyBudget: null, bid: null, sums: noSums(), past: null },
    ...change,
  }) as AccountLine;
const cost = (amount: number) => ({ sums: { ...noSums(), cost: mills(amount), impressions: 1 } });
const lines = [
  line("c1", null, cost(5)),
  line("c2", null, { ...cost(9), status: "paused" }),
  line("c3", null, cost(7)),
  line("g1", "c1", cost(1)),
  line("g2", "c1", cost(4)),
];
const units = new Map([["g2", [line("p1", "g2", { bid: 3 }), line("p2", "g2", { bid: 8 })]]]);
const keys = (open: string[], q = "", sort = "") =>
  workbenchRows(lines, units, new Set(open), q, sort).map(({ line: { key }, depth }) => `${"-".repeat(depth)}${key}`);

describe("the rows of the workbench", () => {
  it("stand as a tree, running ones and the dearest first, opened where asked", () => {
    expect(keys([])).toEqual(["c3", "c1", "c2"]);
    expect(keys(["c1", "g2"])).toEqual(["c3", "c1", "-g2", "--p1", "--p2", "-g1", "c2"]);
  });
  it("are sorted among siblings, those without a value last whichever way", () => {
    expect(keys(["c1"], "", "cost")).toEqual(["c1", "-g1", "-g2", "c3", "c2"]);
    expect(keys(["c1", "g2"], "", "-bid")).toEqual(["c1", "-g1", "-g2", "--p2", "--p1", "c2", "c3"]);
  });
  it("keep what a search finds with what stands above it", () => {
    // Found for what stands in it, a campaign is open; a click closes it.
    expect(keys([], "g1")).toEqual(["c1", "-g1"]);
    expect(keys(["c1"], "g1")).toEqual(["c1"]);
    expect(keys(["c1"], "c1")).toEqual(["c1", "-g2", "-g1"]);
    expect(keys([], "nothing")).toEqual([]);
  });
  it("show what a new group's items did before only where it has nothing of its own", () => {
    const past = { ...noSums(), cost: mills(3) };
    expect(figuresOf(line("g", "c", { past })).cost).toBe(3);
    expect(figuresOf(line("g", "c", { past, ...cost(1) })).cost).toBe(1);
  });

  it("are sorted by any metric of ads; what has none stands last either way, and store sales are nobody's", () => {
    const clicked = (key: string, clicks: number, amount: number) =>
      line(key, null, { sums: { ...noSums(), clicks, cost: mills(amount), impressions: 1 } });
    const dear = [clicked("cheap", 10, 100), clicked("dear", 2, 100), clicked("none", 0, 0)];
    const order = (sort: string) => workbenchRows(dear, new Map(), new Set(), "", sort).map(({ line: { key } }) => key);
    expect(order("cpc")).toEqual(["cheap", "dear", "none"]);
    expect(order("-cpc")).toEqual(["dear", "cheap", "none"]);
    expect(LINE_METRICS).toContain("cpc");
    expect(LINE_METRICS).not.toContain("tacos");
  });
});

import { describe, expect, it } from "vitest";
import type { PlannedAdGroup, PlannedCampaign } from "@/core/planogram/planned-campaigns";
import { plannedRows } from "./planned-rows";

const group = (name: string, revenue: number): PlannedAdGroup => ({
  ...{ key: name, name, node: 0, value: null, items: 1, productGroups: 1, cost: 10, revenue, orders: 1, bid: 300 },
});
const campaign = (name: string, revenue: number, ...adGroups: PlannedAdGroup[]): PlannedCampaign => ({
  ...{ ...group(name, revenue), dailyBudget: 5, isSetByHand: false, variant: null, adGroups },
});
const plan = [campaign("Hoses", 5, group("Oak", 2), group("Steel", 3)), campaign("Rakes", 9, group("Oak long", 9))];
const names = (open: string[], q = "", sort = "") =>
  plannedRows(plan, new Set(open), q, sort).map(({ group: { name }, campaign: of }) => (of ? name : `-${name}`));

describe("the rows of a plan", () => {
  it("are campaigns, with the ad groups of those that are open, sorted among themselves", () => {
    expect(names([])).toEqual(["Hoses", "Rakes"]);
    expect(names(["Hoses"], "", "-revenue")).toEqual(["Rakes", "Hoses", "-Steel", "-Oak"]);
    expect(names(["Hoses"], "", "name")).toEqual(["Hoses", "-Oak", "-Steel", "Rakes"]);
  });
  it("are found by words, ad groups unfolded below their campaign", () => {
    expect(names([], "oak")).toEqual(["Hoses", "-Oak", "Rakes", "-Oak long"]);
    expect(names([], "long oak")).toEqual(["Rakes", "-Oak long"]);
    expect(names([], "rakes")).toEqual(["Rakes"]);
    expect(names([], "none")).toEqual([]);
  });
});

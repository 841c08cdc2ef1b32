import { addSums, noSums } from "../kit/metrics";
import { squareOf, toldNothing, type Told } from "../results/told";
import type { Material, StockItem, StockLine } from "./material";
import { poolReturns } from "./pool-returns";

/** What items are grouped by that no report divides by. */
export type ItemGrouping = "category" | "brand" | "price" | "age";

/** Days in which an item is a newcomer. */
export const NEW_DAYS = 60;

const TIERS = [
  "the cheapest quarter",
  "the second quarter by price",
  "the third quarter by price",
  "the dearest quarter",
];

const known = new WeakMap<Material, Partial<Record<ItemGrouping, StockLine[]>>>();

/**
 * Results of items by what the catalogue knows of them: first category, brand, quarters of price, newcomers and old hands. Items
 * of which that is not known are left out; none are made where all fall into one group.
 */
export function groupsOfItems(material: Material, by: ItemGrouping): StockLine[] {
  let made = known.get(material);
  if (!made) known.set(material, (made = {}));
  return (made[by] ??= makeGroups(material, by));
}

function makeGroups(material: Material, by: ItemGrouping): StockLine[] {
  const nameOf = namer(material.items, by);
  const names = new Map(material.items.map((item) => [item.key, nameOf(item)]));
  const groups = new Map<string, { line: StockLine; told: Told }>();
  for (const { key, sums } of material.levels.item ?? []) {
    const name = names.get(key);
    if (name === undefined || name === null) continue;
    let group = groups.get(name);
    if (!group) {
      group = { line: { key: name, name, sums: noSums(), chance: null, sure: null }, told: toldNothing() };
      groups.set(name, group);
    }
    addSums(group.line.sums, sums);
    group.told.squares += squareOf(sums.orders, sums.revenue);
  }
  if (groups.size < 2) return [];
  const all = [...groups.values()];
  for (const { line, told } of all) {
    const { clicks, cost, orders, revenue } = line.sums;
    Object.assign(told, { clicks, seenClicks: clicks, cost, orders, revenue });
  }
  return poolReturns(
    all.map(({ line }) => line),
    all.map(({ told }) => told),
    material,
  );
}

function namer(items: readonly StockItem[], by: ItemGrouping): (item: StockItem) => string | null {
  if (by === "category") return ({ category }) => category || null;
  if (by === "brand") return ({ brand }) => brand || null;
  if (by === "age") {
    return ({ age }) => (age === null ? null : age < NEW_DAYS ? `newcomers of ${NEW_DAYS} days` : "old hands");
  }
  const prices = items.flatMap(({ price }) => (price !== null && price > 0 ? [price] : [])).sort((a, b) => a - b);
  const cuts = [0.25, 0.5, 0.75].map((at) => prices[Math.floor(at * prices.length)] ?? Infinity);
  return ({ price }) => (price === null || price <= 0 ? null : TIERS[cuts.filter((cut) => price >= cut).length]!);
}

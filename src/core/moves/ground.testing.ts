import { Account, type Structure } from "../account/account";
import { firstHomes, isHomeKind } from "../account/homes";
import { servingGroups } from "../account/walk";
import { textColumn } from "../kit/columns";
import { emptyRowSums } from "../results/window-sums";
import type { Ground } from "./ground";
import { PRESET_RULES } from "./house-rules";

/** For tests: what is known of an item. Money in mills; a day's figures are those of the whole window of ten days. */
export interface TestItem {
  id: string;
  clicks?: number;
  cost?: number;
  orders?: number;
  /** Orders a click and sales an order, as evidence has them. */
  rate?: number;
  value?: number;
  margin?: number;
  category?: number;
  brand?: string;
}

/** For tests: a ground of some items in an account, with nothing known of places, slots and hours but what is given. */
export function testGround(items: TestItem[], structure: Structure, more: Partial<Ground> = {}): Ground {
  const account = Account.fromStructure(structure);
  const ids = new Set(items.map(({ id }) => id));
  const catalogue = {
    length: items.length,
    columns: { id: textColumn(items.map(({ id }) => id)), brand: textColumn(items.map(({ brand }) => brand ?? "")) },
  };
  const all = servingGroups(account, catalogue);
  const homes = all.filter(({ campaign }) => isHomeKind(campaign.kind));
  const of = (read: (item: TestItem) => number | undefined, otherwise: number) =>
    Float64Array.from(items, (item) => read(item) ?? otherwise);
  const sums = {
    ...emptyRowSums(items.length),
    ...{
      clicks: of(({ clicks }) => clicks, 0),
      cost: of(({ cost }) => cost, 0),
      orders: of(({ orders }) => orders, 0),
    },
  };
  return {
    ...{ account, homes, aimed: all.filter(({ campaign }) => !isHomeKind(campaign.kind)) },
    ...{ first: firstHomes(homes, items.length), rows: items.length, days: 10, sums },
    idOf: (row) => items[row]!.id,
    titleOf: (row) => `Item ${items[row]!.id}`,
    categoryOf: of(({ category }) => category, 0),
    evidence: {
      ...{ orderRate: of(({ rate }) => rate, 0.02), orderValue: of(({ value }) => value, 50_000) },
      ...{ cpc: of(() => 200, 200), variance: of(() => 0.1, 0.1), nothing: of(() => 0, 0), expected: of(() => 0, 0) },
    },
    recent: { orders: new Float64Array(items.length), seenClicks: new Float64Array(items.length) },
    margin: of(({ margin }) => margin, 0.4),
    goalOf: () => ({ goal: 3, from: "workspace" }),
    isBuyable: () => true,
    ...{ places: [], slots: [], hours: [], purses: [] },
    isListing: () => false,
    isOwnPage: (place) => ids.has(place),
    isOwnBrand: () => false,
    ...{ settling: new Set(), pushes: [], rules: PRESET_RULES, currency: "EUR", ...more },
  };
}

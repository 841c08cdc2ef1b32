import { describe, expect, it } from "vitest";
import { cutPhrase, withPlainNames } from "./plain-names";
import { READY_MADE, returnByChance, returnTiers } from "./ready-made";
import type { ShelfSet } from "./shelf-set";

const made = (key: string) => READY_MADE.find((one) => one.key === key)!.make(3);
const names = (set: ShelfSet) => set.shelves.map(({ name }) => name);
const cutAt = (set: ShelfSet, place: number, at: number): ShelfSet => ({
  ...set,
  shelves: set.shelves.map((shelf, i) =>
    i === place && shelf.kind === "band" ? { ...shelf, cut: { by: "value", at } } : shelf,
  ),
});

describe("names made of cuts", () => {
  it("follow a cut on both of its sides, in the unit that people read", () => {
    const tiers = returnTiers(3);
    expect(names(withPlainNames(tiers, cutAt(tiers, 1, 3)))).toEqual([
      ...["Return 5.4 and up", "Return 3 to 5.4", "Return 2.4 to 3", "Return 1.2 to 2.4", "Return under 1.2"],
    ]);
    const margins = made("margin-tiers");
    expect(names(withPlainNames(margins, cutAt(margins, 2, 0.2)))).toEqual([
      ...["Margin 50 % and up", "Margin 30 to 50 %", "Margin 20 to 30 %", "Margin under 20 %"],
    ]);
  });

  it("stay where a person gave them, and where no number stands in them", () => {
    const tiers = returnTiers(3);
    const own = {
      ...tiers,
      shelves: tiers.shelves.map((shelf, i) => (i === 1 ? { ...shelf, name: "My good ones" } : shelf)),
    };
    expect(names(withPlainNames(own, cutAt(own, 1, 3)))[1]).toBe("My good ones");
    const chance = returnByChance(3);
    expect(names(withPlainNames(chance, cutAt(chance, 0, 0.95)))).toEqual(["Hot", "Warm", "Mild", "Cool", "Cold"]);
  });

  it("are as they were when a cut goes there and back, or the new one says no number", () => {
    const tiers = returnTiers(3);
    const there = withPlainNames(tiers, cutAt(tiers, 0, 9));
    expect(names(withPlainNames(there, cutAt(there, 0, 5.4)))).toEqual(names(tiers));
    const top = {
      ...tiers,
      shelves: tiers.shelves.map((shelf, i) =>
        i === 0 && shelf.kind === "band" ? { ...shelf, cut: { by: "count" as const, n: 9 } } : shelf,
      ),
    };
    expect(cutPhrase(top, 0)).toBeNull();
    expect(names(withPlainNames(tiers, top))[0]).toBe("Return 5.4 and up");
  });
});

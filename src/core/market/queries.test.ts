import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { MIDDLING } from "./nature";
import { querySurfaces } from "./queries";

const ITEMS = [
  { title: "Thornlea Copper Watering Can 5 l", brand: "Thornlea" },
  { title: "Thornlea Galvanised Watering Can 9 l", brand: "Thornlea" },
  { title: "Veldine Copper Watering Can 2 l", brand: "Veldine" },
  { title: "Plastic Watering Can 10 l", brand: "" },
];

const made = (seed = "seed", demand = 200) =>
  querySurfaces(seed, "Watering > Cans", "watering cans", ITEMS, demand, 1, MIDDLING);
const find = (label: string) => {
  const found = made().find((surface) => surface.label === label);
  if (!found) throw new Error(`no query "${label}"`);
  return found;
};

describe("the queries of a category", () => {
  it("share five times its demand by a Zipf law of exponent 0.8, the most wanted first", () => {
    const volumes = made().map(({ volume }) => volume);
    expect(volumes.reduce((a, b) => a + b, 0)).toBeCloseTo(1000, 8);
    volumes.forEach((volume, rank) => expect(volume / volumes[0]!).toBeCloseTo((rank + 1) ** -0.8, 10));
  });

  it("are the same for the same seed, whatever the demand; another seed orders them otherwise", () => {
    expect(made()).toEqual(made());
    expect(made("seed", 50).map(({ label }) => label)).toEqual(made().map(({ label }) => label));
    const orders = new Set(
      ["a", "b", "c", "d", "e"].map((seed) =>
        made(seed)
          .map(({ label }) => label)
          .join("|"),
      ),
    );
    expect(orders.size).toBeGreaterThan(1);
  });

  it("are made of words that tell items apart, not of those that nearly all have, and each is one", () => {
    const labels = made().map(({ label }) => label);
    expect(labels).toEqual(
      expect.arrayContaining(["Copper watering cans", "Galvanised watering cans", "Plastic watering cans"]),
    );
    expect(labels.filter((label) => label.startsWith("Watering "))).toEqual([]);
    expect(new Set(labels).size).toBe(labels.length);
  });

  it("fit the items that have their word or brand, and others hardly", () => {
    expect([...find("Copper watering cans").fit]).toEqual([1.25, 0.15, 1.25, 0.15]);
    expect([...find("thornlea watering cans").fit]).toEqual([1.6, 1.6, 0.05, 0.05]);
    expect([...find("watering cans").fit]).toEqual([0.8, 0.8, 0.8, 0.8]);
  });

  it("differ in who searches: buyers buy, own-brand would mostly come anyway, pictures sell next to nothing", () => {
    const [plain, buy, own, pictures] = [
      "watering cans",
      "buy watering cans",
      "thornlea watering cans",
      "watering cans pictures",
    ].map(find);
    expect(buy!.cvr).toBeGreaterThan(plain!.cvr);
    expect(own!.incremental).toBeLessThan(0.5);
    expect(pictures!.cvr).toBeLessThan(0.05 * own!.cvr);
    // Hardness is told against the category's rivals.
    expect(find("watering cans").rivalMean).toBe(1.25);
  });

  it("stand for any titles: finite, positive, in number bounded, the shares adding up", () => {
    const itemArb = fc.record({ title: fc.string({ maxLength: 40 }), brand: fc.constantFrom("", "A-b", "Ottersby") });
    fc.assert(
      fc.property(
        fc.array(itemArb, { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 1, max: 5000 }),
        (items, demand) => {
          const all = querySurfaces("s", "c", "things", items, demand, 0.5, MIDDLING);
          expect(all.length).toBeGreaterThanOrEqual(6);
          expect(all.length).toBeLessThanOrEqual(19);
          expect(all.reduce((sum, { volume }) => sum + volume, 0)).toBeCloseTo(5 * demand, 5);
          for (const { fit, cvr, ctr } of all) {
            expect(fit.length).toBe(items.length);
            expect(Math.min(cvr, ctr, ...fit)).toBeGreaterThan(0);
          }
        },
      ),
    );
  });
});

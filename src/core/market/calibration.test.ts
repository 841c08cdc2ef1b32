import { describe, expect, it } from "vitest";
import { calibrationTable, judgeEvidence } from "./calibration";
import { seeWorld } from "./seen-world";

/** The table over worlds of a size worth trusting is part of `npm run bench`; here two small worlds keep it from breaking. */
describe("evidence on worlds of the test market", () => {
  // Two worlds, since one of a few hundred orders is off by a tenth by luck alone.
  const worlds = ["calibration", "another"].map((seed) => seeWorld(1000, 28, seed));
  const cells = new Map(
    calibrationTable(worlds.flatMap((world) => judgeEvidence(world))).map((cell) => [cell.name, cell]),
  );
  const cell = (name: string) => cells.get(name)!;

  it.each(["items", "items, cheap for their kind", "items, dear for their kind", "families", "categories", "terms"])(
    "covers the truth of %s with its 80 % intervals, and errs less than raw returns",
    (name) => {
      const { covered, cases, error } = cell(name);
      // Three standard errors of the number of cases beside what must hold.
      const slack = 3 * Math.sqrt(0.16 / cases);
      expect(covered).toBeGreaterThan(0.72 - slack);
      expect(covered).toBeLessThan(0.9 + slack);
      expect(error).toBeLessThan(1.1);
    },
  );

  it("holds for items by how much is known of them, and for lists picked by their result", () => {
    for (const name of ["items, without a click", "items, under 10 clicks", "items, 10 to 60 clicks"]) {
      expect(cell(name).error, name).toBeLessThan(0.85);
    }
    // Those with many clicks are few here, and what their kind says helps little more than their own clicks do.
    expect(cell("items, over 60 clicks").error).toBeLessThan(1.15);
    for (const name of ["items, best fifth by raw return", "items, worst fifth by raw return"]) {
      const { covered, cases, bias } = cell(name);
      expect(covered, name).toBeGreaterThan(0.74 - 3 * Math.sqrt(0.16 / cases));
      expect(bias, name).toBeGreaterThan(0.75);
      expect(bias, name).toBeLessThan(1.35);
    }
    // Of what is sold out nothing is expected, and nothing is what comes.
    expect(cell("items, sold out").covered).toBe(1);
  });
});

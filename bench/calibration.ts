import { calibrationTable, judgeEvidence, type Case } from "@/core/market/calibration";
import { ACCOUNT_WAYS, seeWorld } from "@/core/market/seen-world";
import { figure, type Figure } from "./measure";
import { SALT } from "./salt";

/** Shops of three sizes, and worlds of each: small ones have few orders, so it takes more of them to say anything. */
const SIZES: [items: number, worlds: number][] = [
  [300, 8],
  [1200, 6],
  [2400, 2],
];
const DAYS = 30;

/** Cells with fewer cases say little and are left out; below the other number they are not held to what must be. */
const LEAST_CASES = 60;
const HELD_FROM = 200;

/**
 * Not a speed: how well evidence is calibrated on worlds of the test market whose truth is known, cell by cell, on accounts
 * as people have them.
 */
export function benchCalibration(): Figure[] {
  return ACCOUNT_WAYS.flatMap((way) => {
    const cases: Case[] = [];
    let ms = 0;
    for (const [items, worlds] of SIZES) {
      for (let world = 0; world < worlds; world++) {
        const seen = seeWorld(items, DAYS, `${SALT} ${items} ${world}`, undefined, way);
        const start = performance.now();
        cases.push(...judgeEvidence(seen));
        ms += performance.now() - start;
      }
    }
    const must = "80 % intervals cover 76 to 84 %; mean 0.9 to 1.1; error below 1";
    return calibrationTable(cases)
      .filter((cell) => cell.cases >= LEAST_CASES)
      .map(({ name, cases: count, covered, bias, error, said, reached }) => {
        const isOff = covered < 0.76 || covered > 0.84 || bias < 0.9 || bias > 1.1 || error > 1;
        const off = count >= HELD_FROM && isOff ? " (outside)" : "";
        const errors = Number.isFinite(error)
          ? `, error ÷ raw ${error.toFixed(2)}, mean ÷ truth ${bias.toFixed(2)}`
          : "";
        const chances = `, chance of the goal ${(100 * said).toFixed(0)} % said, ${(100 * reached).toFixed(0)} % do`;
        const more = `covered ${(100 * covered).toFixed(1)} %${errors}${chances}${off}`;
        return figure(`${way} account, ${name}`, `${count} cases`, ms, "", null, must, `${more}; salt ${SALT}`);
      });
  });
}

import { calibrationTable, judgeEvidence, type Case } from "@/core/market/calibration";
import { ACCOUNT_WAYS, seeWorld } from "@/core/market/seen-world";
import { figure, type Figure } from "./measure";

const WORLDS = 3;
const ITEMS = 2400;
const DAYS = 30;

/** Cells with fewer cases say little and are left out. */
const LEAST_CASES = 60;

/**
 * Not a speed: how well evidence is calibrated on worlds of the test market whose truth is known, cell by cell, on accounts
 * as people have them.
 */
export function benchCalibration(): Figure[] {
  return ACCOUNT_WAYS.flatMap((way) => {
    const cases: Case[] = [];
    let ms = 0;
    for (let world = 0; world < WORLDS; world++) {
      const seen = seeWorld(ITEMS, DAYS, `bench ${world}`, undefined, way);
      const start = performance.now();
      cases.push(...judgeEvidence(seen));
      ms += performance.now() - start;
    }
    const must = "80 % intervals cover 76 to 84 %; mean 0.9 to 1.1; error below 1";
    return calibrationTable(cases)
      .filter((cell) => cell.cases >= LEAST_CASES)
      .map(({ name, cases: count, covered, bias, error }) => {
        const off = covered < 0.76 || covered > 0.84 || bias < 0.9 || bias > 1.1 ? " (outside)" : "";
        const errors = Number.isFinite(error)
          ? `, error ÷ raw ${error.toFixed(2)}, mean ÷ truth ${bias.toFixed(2)}`
          : "";
        const more = `covered ${(100 * covered).toFixed(1)} %${errors}${off}`;
        return figure(`${way} account, ${name}`, `${count} cases`, ms, "", null, must, more);
      });
  });
}

import { calibrationTable, judgeEvidence, type Case } from "@/core/market/calibration";
import { seeWorld } from "@/core/market/seen-world";
import { figure, type Figure } from "./measure";

const WORLDS = 3;
const ITEMS = 4510;
const DAYS = 30;

/** Cells with fewer cases say little and are left out. */
const LEAST_CASES = 60;

/** Not a speed: how well evidence is calibrated on worlds of the test market whose truth is known, cell by cell. */
export function benchCalibration(): Figure[] {
  const cases: Case[] = [];
  let ms = 0;
  for (let world = 0; world < WORLDS; world++) {
    const seen = seeWorld(ITEMS, DAYS, `bench ${world}`);
    const start = performance.now();
    cases.push(...judgeEvidence(seen));
    ms += performance.now() - start;
  }
  const must = "80 % intervals cover 76 to 84 %; error below 1";
  return calibrationTable(cases)
    .filter((cell) => cell.cases >= LEAST_CASES)
    .map(({ name, cases: count, covered, bias, error }) => {
      const off = covered < 0.76 || covered > 0.84 ? " (outside)" : "";
      const errors = Number.isFinite(error) ? `, error ÷ raw ${error.toFixed(2)}, mean ÷ truth ${bias.toFixed(2)}` : "";
      const more = `covered ${(100 * covered).toFixed(1)} %${off}${errors}`;
      return figure(`evidence of ${name}`, `${count} cases`, ms, "", null, must, more);
    });
}

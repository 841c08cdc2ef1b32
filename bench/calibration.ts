import { calibrate } from "@/core/evidence/simulated-shop";
import { figure, type Figure } from "./measure";

const SEEDS = 50;

/** Not a speed: how well the pooled evidence is calibrated on simulated shops whose truth is known. */
export function benchCalibration(): Figure[] {
  const start = performance.now();
  const { covered, errors } = calibrate(SEEDS);
  const ms = performance.now() - start;
  const ratios = errors.map(({ raw, pooled }) => (pooled / raw).toFixed(2)).join(", ");
  const must = "coverage 76 to 84 %, error ratios below 1";
  const more = `80 % intervals cover ${(100 * covered).toFixed(1)} %; pooled error ÷ raw at few, some, many clicks: ${ratios}`;
  return [figure("calibration of evidence, 50 shops", "600 items each", ms, "", null, must, more)];
}

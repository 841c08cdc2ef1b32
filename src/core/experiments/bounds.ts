import jstat from "jstat";
import { normalQuantile } from "../kit/stats";

/** How often “works”, or “harms”, is said at most where nothing is there to find, however often somebody looks. */
export const FALSE_CLAIM = 0.05;
/** Harm is stopped at sooner than it is claimed: stopping claims nothing. */
const FALSE_STOP = 0.2;
/** What is there is found this often, where a plan says it can be. */
export const FOUND = 0.8;
/** Below this share of what a plan comes to know nothing is said: the bound lies beyond all that few days can show. */
export const LEAST_KNOWN = 0.1;

/**
 * How many standard errors an effect lies from none before it counts, where one may look at any moment of a plan. With all that
 * a plan comes to know as one unit of time the sum of what is seen moves like a Brownian motion, which at no time before its end
 * lies above c with a chance of 1 − 2(1 − Φ(c)) (reflection principle; as a bound for looks at will: O'Brien and Fleming 1979,
 * Lan and DeMets 1983). So c = Φ⁻¹(1 − α/2), and at a share t of the time it is c ÷ √t standard errors.
 * @param known what is known by now as a share of what the plan comes to know, up to 1
 * @param degrees of freedom of the standard error: few pairs know their own spread badly, so the bound is widened as Student's t is
 */
export function deviationsAt(known: number, degrees: number, falseClaim = FALSE_CLAIM): number {
  const student = jstat.studentt.inv(1 - falseClaim / 2, Math.max(1, degrees));
  return student / Math.sqrt(Math.min(1, Math.max(known, 1e-9)));
}

/** The bound at which an experiment stops for harm. */
export function harmDeviationsAt(known: number, degrees: number): number {
  return deviationsAt(known, degrees, FALSE_STOP);
}

/** How many standard errors an effect has to be to be found as often as `FOUND` at the end of a plan. */
export function deviationsToFind(degrees: number): number {
  return deviationsAt(1, degrees) + normalQuantile(FOUND);
}

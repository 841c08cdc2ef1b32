import type { Day } from "../kit/days";
import { normal, randomFrom } from "../kit/random";
import type { World } from "./world-types";

/** Of the variance of a place's day, this much also stands in how readily a category's shoppers buy that day. */
const IN_BUYING = 0.25;

/**
 * The luck of a day beyond chance in counts: somebody writes about a hose, a rival's shop is down. Factors of mean 1, a
 * draw of its own for every place and category, so that counts by day scatter more than Poisson.
 */
export class Luck {
  private readonly places = new Map<number, number>();

  constructor(
    private readonly world: World,
    private readonly seed: string,
    private readonly day: Day,
  ) {}

  /** Factor on how many look at a place. */
  ofPlace(surface: number): number {
    const known = this.places.get(surface);
    if (known !== undefined) return known;
    const drawn = this.drawn(this.world.nature.burst, "place", surface);
    this.places.set(surface, drawn);
    return drawn;
  }

  /** Factor on how many of those who click in a category buy. */
  ofBuying(category: string): number {
    return this.drawn(IN_BUYING * this.world.nature.burst, "buying", category);
  }

  private drawn(variance: number, what: string, of: string | number): number {
    // Log-normal of mean 1.
    const square = Math.log1p(variance);
    const random = randomFrom(this.seed, this.world.seed, "luck", this.day, what, of);
    return Math.exp(Math.sqrt(square) * normal(random) - square / 2);
  }
}

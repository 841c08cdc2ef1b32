import { z } from "zod";
import { randomFrom } from "../kit/random";

/**
 * What makes one world unlike another, drawn from its seed within {@link NATURE_RANGES}: how much money there is, how
 * far apart things lie, how much moves, how late orders are seen.
 */
export const natureSchema = z.object({
  /** Factor on what rivals bid. Where it is high a click costs more than it brings and a goal binds. */
  rivalry: z.number(),
  /** Factor on how many look. */
  demand: z.number(),
  /** Exponent of an item's price in its conversion: dear things are bought more rarely. */
  priceSlope: z.number(),
  /** The same of its price over the middle one of its kind. */
  kindSlope: z.number(),
  /** Standard deviations of the logarithms of items' conversion, organic demand and quality. */
  conversionSpread: z.number(),
  organicSpread: z.number(),
  qualitySpread: z.number(),
  /** Factor on the swings of demand, of rivals' bids and of buying over weeks. */
  drift: z.number(),
  /** Yearly growth of demand. */
  trend: z.number(),
  /** Share of orders seen on the day of their click. */
  prompt: z.number(),
});
export type Nature = z.output<typeof natureSchema>;

/** The world in the middle of all: workspaces made before natures were drawn, the demo, and tests stand in it. */
export const MIDDLING: Nature = {
  rivalry: 1,
  demand: 1,
  priceSlope: -0.45,
  kindSlope: -0.4,
  conversionSpread: 0.7,
  organicSpread: 0.9,
  qualitySpread: 0.28,
  drift: 1,
  trend: 0.06,
  prompt: 0.62,
};

/** Least and most of every part of a nature. */
export const NATURE_RANGES: Record<keyof Nature, readonly [number, number]> = {
  rivalry: [0.75, 2.2],
  demand: [0.5, 2],
  priceSlope: [-0.7, -0.25],
  kindSlope: [-0.65, -0.2],
  conversionSpread: [0.5, 0.9],
  organicSpread: [0.6, 1.2],
  qualitySpread: [0.18, 0.4],
  drift: [0.4, 2],
  trend: [-0.06, 0.15],
  prompt: [0.45, 0.8],
};

/** Parts that are factors: drawn evenly on a logarithmic scale, so that half and double are alike. */
const FACTORS = new Set<keyof Nature>(["rivalry", "demand", "drift"]);

/** The nature that a seed stands for; every part has a draw of its own, so that a new part changes no other. */
export function natureOf(seed: string): Nature {
  const drawn = Object.entries(NATURE_RANGES).map(([name, [least, most]]) => {
    const at = randomFrom(seed, "nature", name)();
    const isFactor = FACTORS.has(name as keyof Nature);
    return [name, isFactor ? least * (most / least) ** at : least + (most - least) * at];
  });
  return natureSchema.parse(Object.fromEntries(drawn));
}

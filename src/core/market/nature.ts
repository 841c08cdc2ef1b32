import { z } from "zod";
import { randomFrom } from "../kit/random";

/** A part of a nature: what it is in the middling world, and its least and most in worlds that are drawn. */
interface Part {
  middling: number;
  range: readonly [least: number, most: number];
  /** Drawn evenly on a logarithmic scale, so that half and double are alike. */
  isFactor?: true;
}

/**
 * What makes one world unlike another: how much money there is, how far apart things lie, when and where and how people
 * buy, how much moves. What pays in one therefore loses in the next, and has to be learned from reports.
 */
const PARTS = {
  // Money.
  /** Factor on what rivals bid. Where it is high a click costs more than it brings and a goal binds. */
  rivalry: { middling: 1, range: [0.75, 2.2], isFactor: true },
  /** Factor on how many look. */
  demand: { middling: 1, range: [0.5, 2], isFactor: true },
  /** The money an account of this world starts with, over what it could use well. */
  money: { middling: 1, range: [0.3, 3], isFactor: true },
  /** The goal an account of this world is held to, over what its best account returns anyway: above 1 it binds. */
  strictness: { middling: 0.9, range: [0.6, 1.67], isFactor: true },
  /** What rivals add to the logarithm of their bids where an ad of ours stood in every auction of late. */
  answer: { middling: 0.2, range: [0, 2] },

  // How far items lie apart.
  /** Exponent of an item's price in its conversion: dear things are bought more rarely. */
  priceSlope: { middling: -0.45, range: [-0.7, -0.25] },
  /** The same of its price over the middle one of its kind. */
  kindSlope: { middling: -0.4, range: [-0.65, -0.2] },
  /** Standard deviations of the logarithms of items' conversion, organic demand and quality. */
  conversionSpread: { middling: 0.7, range: [0.5, 0.9] },
  organicSpread: { middling: 0.9, range: [0.6, 1.2] },
  qualitySpread: { middling: 0.28, range: [0.18, 0.4] },
  /** Exponent of an item's conversion in its organic sales: how far shop sales tell who converts. */
  organicSlope: { middling: 0.6, range: [0.25, 0.8] },

  // What moves.
  /** Factor on the swings of demand, of rivals' bids and of buying over weeks. */
  drift: { middling: 1, range: [0.4, 2], isFactor: true },
  /** Yearly growth of demand. */
  trend: { middling: 0.06, range: [-0.06, 0.15] },
  /** How far an item's conversion moves over months: the swing of its logarithm. */
  wander: { middling: 0.1, range: [0, 0.5] },
  /** Share of seven weeks in which a category sees a price war. */
  wars: { middling: 0.15, range: [0, 0.7] },
  /** Variance of the day's luck of one place over what chance alone makes. */
  burst: { middling: 0.1, range: [0.02, 0.6] },

  // When.
  /** Share of orders seen on the day of their click, and factor on how long the others take. */
  prompt: { middling: 0.62, range: [0.45, 0.8] },
  tardy: { middling: 1, range: [0.6, 1.6], isFactor: true },
  /** Exponent of the day's course of buying, and the hours by which it is moved. */
  hourSwing: { middling: 1, range: [0.1, 2.6] },
  hourShift: { middling: 0, range: [-9, 9] },
  /** Exponent of the week's course of traffic; what weekends add to the logarithm of buying. */
  weekSwing: { middling: 1, range: [0, 3] },
  weekend: { middling: 0, range: [-0.4, 0.4] },

  // Where.
  /** Conversion in each slot against an item's own. */
  leadBuying: { middling: 1.1, range: [0.6, 1.6] },
  lowerBuying: { middling: 1, range: [0.55, 1.4] },
  pagesBuying: { middling: 0.75, range: [0.3, 1.4] },
  partnerBuying: { middling: 0.35, range: [0.08, 1.1], isFactor: true },
  /** How much wider the day's course of buying is in the lead row than below it. */
  meeting: { middling: 0.1, range: [-0.7, 0.7] },

  // What for: conversion of those who search so against an item's own.
  broadBuying: { middling: 0.7, range: [0.35, 1.2] },
  attributeBuying: { middling: 1.15, range: [0.8, 1.5] },
  longBuying: { middling: 1.5, range: [0.8, 2.2] },
  brandBuying: { middling: 1.9, range: [0.9, 3] },
  rivalBrandBuying: { middling: 0.35, range: [0.1, 1] },
  bargainBuying: { middling: 0.55, range: [0.2, 1.2] },
  /** Of how-to and off-topic queries: a factor on both. */
  idleBuying: { middling: 1, range: [0.3, 3], isFactor: true },
  /** Exponent of how well an item fits what is looked for in who clicks, and in who buys. */
  closeness: { middling: 0.3, range: [0.1, 0.9] },
  /** How much closer an ad fits a query for an exact keyword. */
  exactEdge: { middling: 1.1, range: [0.94, 1.2] },

  // What text ads say: what each does to the logarithm of clicks or of orders a click.
  /** Of having all words of the query over having none, on clicks. */
  wordPull: { middling: 0.5, range: [0.15, 0.9] },
  /** Of having plenty of lines over having next to none, on clicks. */
  linePull: { middling: 0.3, range: [0.1, 0.5] },
  /** Of lines that are cut off, on clicks. */
  cutHurt: { middling: 0.12, range: [0.02, 0.3] },
  /** Of naming an amount or a share off, on clicks. */
  offPull: { middling: 0.12, range: [-0.05, 0.3] },
  /** Of ten ad groups that say the very same, on clicks. */
  samePull: { middling: 0.08, range: [0, 0.2] },
  /** Of naming the price as it is paid, on orders. */
  pricePull: { middling: 0.1, range: [-0.05, 0.25] },
  /** Of saying that few are left, on orders; that many are left does the contrary. */
  hurry: { middling: 0.1, range: [-0.05, 0.25] },

  // What ads add.
  /** Share of ad orders that would not have come anyway: own brand, own pages, all others. */
  brandNew: { middling: 0.45, range: [0.08, 0.9] },
  pageNew: { middling: 0.45, range: [0.1, 0.9] },
  genericNew: { middling: 0.95, range: [0.6, 1] },
  /** Share of a best seller's organic orders that rivals take on its page while nothing of ours stands there. */
  exposure: { middling: 0.02, range: [0, 0.042] },

  // What an order is.
  /** Units beyond the first. */
  basket: { middling: 0.15, range: [0.02, 0.7] },
  /** Share of units that are sent back. */
  returns: { middling: 0.03, range: [0, 0.22] },
  /** Share of ad orders that are of another item than the one clicked. */
  elsewhere: { middling: 0.08, range: [0, 0.3] },
} satisfies Record<string, Part>;

/** The parts of a nature by name; {@link PARTS} says what each is. */
export type Nature = Record<keyof typeof PARTS, number>;

const ENTRIES = Object.entries(PARTS) as [keyof Nature, Part][];
const eachPart = <T>(of: (part: Part, name: keyof Nature) => T) =>
  Object.fromEntries(ENTRIES.map(([name, part]) => [name, of(part, name)])) as Record<keyof Nature, T>;

/** The world in the middle of all: workspaces made before natures were drawn, the demo, and tests stand in it. */
export const MIDDLING: Nature = eachPart(({ middling }) => middling);

/** Least and most of every part of a nature. */
export const NATURE_RANGES: Record<keyof Nature, readonly [number, number]> = eachPart(({ range }) => range);

/** A nature as it is kept: parts that came later than it stand as in the middling world. */
export const natureSchema: z.ZodType<Nature> = z.object(eachPart(({ middling }) => z.number().default(middling)));

/** The nature that a seed stands for; every part has a draw of its own, so that a new part changes no other. */
export function natureOf(seed: string): Nature {
  return eachPart(({ range: [least, most], isFactor }, name) => {
    const at = randomFrom(seed, "nature", name)();
    return isFactor ? least * (most / least) ** at : least + (most - least) * at;
  });
}

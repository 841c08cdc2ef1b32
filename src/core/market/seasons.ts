import { hashText } from "../kit/random";

/** When a kind of thing is looked for most: a day of the year, and how strongly (0 to 1). */
export interface Season {
  peakDay: number;
  seasonality: number;
}

/** Words that tell a season, and its peak as a day of the year. The first that occurs counts. */
const TELLING: [words: RegExp, peakDay: number][] = [
  [/\b(heaters?|heating|winter|fleece|grow lights?|bird feeders?|frost|christmas|snow|scar(f|ves)|coats?)\b/i, 15],
  [/\b(seeds?|seedlings?|propagat\w*|cloches?|cold frames?|raised beds?|plant\w*|compost)\b/i, 105],
  [/\b(water\w*|hoses?|sprinklers?|irrigation|pools?|barbecues?|fans?|shade|parasols?|insects?)\b/i, 180],
  [/\b(leaf|leaves|rakes?|school|bulbs?)\b/i, 285],
];

/** How strong the season of things is whose words tell one, and of those whose words tell none. */
const STRONG = [0.35, 0.55] as const;
const WEAK = [0.04, 0.15] as const;

/** The season of a category, from its words; strength, and the peak where they tell none, by seed. */
export function seasonOf(seed: string, category: string): Season {
  const at = hashText(`${seed}/season/${category}`) / 4294967296;
  const told = TELLING.find(([words]) => words.test(category));
  const [least, most] = told ? STRONG : WEAK;
  return { peakDay: told ? told[1] : Math.floor(at * 365), seasonality: least + (most - least) * at };
}

/**
 * In how many of twelve worlds of the test market ads added less for 90 days with a structure to start from than with the
 * untidy account left alone, by template (`docs/structures.md`; `bench/structures.ts` makes it).
 */
export const JUDGED: { worlds: number; lost: Record<string, number> } = {
  worlds: 12,
  lost: {
    "category-campaigns": 1,
    "one-campaign": 1,
    "biggest-and-rest": 1,
    "winners-by-return": 0,
    midpoint: 1,
    "store-best": 5,
    "ads-best": 2,
    revive: 0,
    solo: 5,
    "catch-all": 0,
    "low-entry": 1,
  },
};

/** What is said of it where a structure is offered: a warning where it lost in more than a third of the worlds. */
export function judgedWords(template: string): { text: string; isWarning: boolean } | null {
  const lost = JUDGED.lost[template];
  if (lost === undefined) return null;
  const { worlds } = JUDGED;
  return lost > worlds / 3
    ? { text: `In ${lost} of ${worlds} test worlds it earned less than leaving the account alone.`, isWarning: true }
    : {
        text: `In ${worlds - lost} of ${worlds} test worlds it earned no less than leaving the account alone.`,
        isWarning: false,
      };
}

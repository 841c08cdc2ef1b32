/** What the channel takes; checked before anything is sent. A table of the test market. */
export const CHANNEL_LIMITS = {
  campaigns: 10_000,
  nameLength: 120,
  productGroupsInAdGroup: 20_000,
  splitDepth: 7,
  /** Characters and words of a keyword. */
  keywordLength: 80,
  keywordWords: 10,
  /** Mills. */
  lowestBid: 10,
  highestBid: 50_000,
  lowestDailyBudget: 500,
} as const;

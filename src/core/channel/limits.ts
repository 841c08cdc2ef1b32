/** The limits of a channel within which an account must stay before anything is sent to it; Infinity and 0 where it names none. */
export interface AccountLimits {
  campaigns: number;
  /** Characters. */
  nameLength: number;
  productGroupsInAdGroup: number;
  /** Mills. */
  lowestBid: number;
  highestBid: number;
  lowestDailyBudget: number;
}

/** What the channel takes; checked before anything is sent. A table of the test market. */
export const CHANNEL_LIMITS = {
  /** Where its shoppers are, as an ISO 3166 code; campaigns for other countries show nothing. */
  country: "DE",
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
  /** How much more than its daily budget a campaign may spend on a day, out of what it left over earlier in the month. */
  overspend: 0.25,
  /** What an asset group's ads are put together from: how many, and how long a line may be in characters. */
  assets: {
    headlines: { least: 2, most: 12, length: 34 },
    descriptions: { least: 1, most: 5, length: 95 },
    pictures: { least: 1, most: 15, length: null },
  },
  /** The lines of a text ad: how many an ad needs and takes, and how long each may be in characters. */
  textAd: {
    headlines: { least: 2, most: 10, length: 36 },
    descriptions: { least: 1, most: 4, length: 92 },
    /** Words behind the shop's address, as the ad shows it. */
    address: { least: 0, most: 1, length: 22 },
  },
  /** How many of a text ad's lines stand in a wide and in a narrow view; of more, they take turns. */
  textAdShows: { wide: { headlines: 3, descriptions: 2 }, narrow: { headlines: 2, descriptions: 1 } },
  adsInGroup: 20,
  /** Whether signs as wide as two letters count two in the length of a line. */
  wideCountTwice: true,
  /** Least width and height of a picture in pixels, and its most bytes. */
  pictureSide: 300,
  pictureBytes: 5_000_000,
} as const;

import { CHANNEL_LIMITS } from "../channel/limits";

/** What the test market can carry, for its own table in the contract: all kinds of records, within its limits. */
export const MARKET_CARRIES = {
  nameLength: CHANNEL_LIMITS.nameLength,
  keywordLength: CHANNEL_LIMITS.keywordLength,
  keywordWords: CHANNEL_LIMITS.keywordWords,
  campaigns: CHANNEL_LIMITS.campaigns,
  productGroupsInAdGroup: CHANNEL_LIMITS.productGroupsInAdGroup,
  lowestBid: CHANNEL_LIMITS.lowestBid,
  highestBid: CHANNEL_LIMITS.highestBid,
  lowestDailyBudget: CHANNEL_LIMITS.lowestDailyBudget,
  overspend: CHANNEL_LIMITS.overspend,
};

/** The account as the channel has it. Wherever this and the next one both exist, they are told apart by these two words. */
export const LIVE = "Live";
/** The account as it will be once the basket is sent. */
export const WITH_BASKET = "With the basket";

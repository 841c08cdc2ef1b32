/** How long a message stays that offers to take something back, ms: long enough to read it, look, and think again. */
export const WAY_BACK_MS = 30_000;

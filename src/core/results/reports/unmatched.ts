/** Item numbers from here on stand for IDs in reports that no item of the catalogue has: this plus the ID's code. */
export const UNMATCHED_FROM = 2 ** 31;

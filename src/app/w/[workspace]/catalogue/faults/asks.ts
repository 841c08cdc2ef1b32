/** The path of the first rows that were set aside; all of them are in the file that can be downloaded. */
export const asidePath = "set-aside?limit=20";

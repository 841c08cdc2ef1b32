/** What every address of the API begins with. */
export const PREFIX = "/api/v1/";

/** The header in which an answer about a workspace says at which version of the account it was read. */
export const ACCOUNT_VERSION = "hot-shelf-account";

/** With this prefix a browser takes it only over a safe connection, for this host and all its paths. */
export const SESSION_COOKIE = "__Host-hot-shelf";

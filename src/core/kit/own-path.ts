/** Stands for this server, whatever it is called. */
const HERE = "http://here.invalid";

/**
 * A page of this server to go to; an address that leads elsewhere, however it is written, becomes the first page. It is
 * read as a browser reads it, which passes over tabs and line ends and takes a backslash for a slash.
 */
export function ownPath(to: string): string {
  if (!to.startsWith("/")) return "/";
  let url: URL;
  try {
    url = new URL(to, HERE);
  } catch {
    return "/";
  }
  const path = url.pathname + url.search + url.hash;
  // With two slashes first, what is left of "/.//elsewhere" would be another server's name.
  return url.origin === HERE && !path.startsWith("//") ? path : "/";
}

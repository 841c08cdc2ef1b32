import punycode from "punycode/punycode.js";

/** A placement's address as it is told apart by. */
export interface PlacementAddress {
  /** Without scheme, user, leading www, port, query, mark and closing slash, in small letters; a host in its ASCII form. */
  address: string;
  /** The same as people read it: hosts in their own script. */
  shown: string;
}

/** `scheme://user@host:port/path?query#mark`, all but the host left out at will. */
const PARTS = /^(?:[a-z][a-z0-9+.-]*:\/\/)?(?:[^/?#@\s]*@)?(?:www\.)?([^/?#:\s]+)(?::\d+)?(\/[^?#]*)?(?:[?#].*)?$/i;

/** Reads an address however it is written; null where there is none in the text. Apps may stand by their number in a store. */
export function readAddress(text: string): PlacementAddress | null {
  const given = text.trim();
  if (given === "" || /\s/.test(given)) return null;
  const [, host = "", path = ""] = PARTS.exec(given) ?? [];
  const ascii = /^\d+$/.test(host) ? host : hostOf(host);
  if (ascii === null) return null;
  const rest = path.replace(/\/+$/, "").toLowerCase();
  return { address: ascii + rest, shown: punycode.toUnicode(ascii) + rest };
}

/** The ASCII form of a host, by the rules that browsers keep; null where it is none. */
function hostOf(host: string): string | null {
  const low = host.toLowerCase();
  // Numbers of apps in a store have letters, digits, points and underscores, which hosts may not all have.
  if (/^[a-z0-9_.-]+$/.test(low)) return /[a-z0-9]/.test(low) ? low.replace(/\.+$/, "") : null;
  const url = URL.parse(`http://${low}`);
  return url && url.hostname !== "" ? url.hostname : null;
}

/** An address as placements are known by; what is none stays as it was written, in small letters. */
export function plainAddress(text: string): string {
  return readAddress(text)?.address ?? text.trim().toLowerCase();
}

/** Whether a text looks like an address at all: a host with a point in it, or the number of an app. */
export function looksLikeAddress(text: string): boolean {
  const host = readAddress(text)?.address.split("/")[0] ?? "";
  return host.includes(".") || /^(?:id)?\d{6,}$/.test(host);
}

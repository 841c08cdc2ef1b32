import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";

/** Longest key a path may give; longer ones keep a readable start and end in a hash of the whole. */
const LONGEST_KEY = 400;
/** Hexadecimal digits of the hash: 128 bits, so that two paths of one account never meet. */
const HASH_DIGITS = 32;

/** A key of bearable length that no other path has. */
export function shortKey(key: string): string {
  if (key.length <= LONGEST_KEY) return key;
  const hash = bytesToHex(sha256(new TextEncoder().encode(key))).slice(0, HASH_DIGITS);
  return `${key.slice(0, LONGEST_KEY)}~${hash}`;
}

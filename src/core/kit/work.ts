import { sha256 } from "@noble/hashes/sha2.js";
import { utf8ToBytes } from "@noble/hashes/utils.js";

/**
 * Work that takes a machine some seconds and is checked at once: numbers are tried until the hash of one begins with enough
 * noughts (Back, Hashcash, 2002). It slows down whoever guesses passwords, and locks nobody out.
 */
export interface Work {
  /** What the work is for: good once, for a few minutes. */
  challenge: string;
  /** Noughts that the hash begins with, in bits. Each bit more takes twice as long. */
  bits: number;
}

function hashOf(prepared: Uint8Array, answer: number): Uint8Array {
  const bytes = new Uint8Array(prepared.length + 8);
  bytes.set(prepared);
  new DataView(bytes.buffer).setFloat64(prepared.length, answer);
  return sha256(bytes);
}

function beginsWith(hash: Uint8Array, bits: number): boolean {
  let left = bits;
  for (let i = 0; left > 0; i++, left -= 8) {
    if (left >= 8 ? hash[i] !== 0 : hash[i]! >> (8 - left) !== 0) return false;
  }
  return true;
}

/** Whether an answer does the work that was asked for. */
export function isDone({ challenge, bits }: Work, answer: number): boolean {
  return (
    Number.isSafeInteger(answer) && answer >= 0 && beginsWith(hashOf(sha256(utf8ToBytes(challenge)), answer), bits)
  );
}

/** Looks for an answer among some numbers. @returns the first that does the work, or null when none of them does */
export function findAnswer({ challenge, bits }: Work, from: number, tries: number): number | null {
  const prepared = sha256(utf8ToBytes(challenge));
  for (let answer = from; answer < from + tries; answer++) {
    if (beginsWith(hashOf(prepared, answer), bits)) return answer;
  }
  return null;
}

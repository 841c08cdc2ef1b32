import { hashText } from "./random";

/**
 * A short text that tells one state of a definition from another, whatever the order of its keys. Whoever changes it sends
 * along the version that was seen, so that a change made meanwhile is not overwritten.
 */
export function versionOf(value: unknown): string {
  const text = JSON.stringify(inOrder(value)) ?? "null";
  const first = hashText(text);
  return first.toString(36) + hashText(text, first).toString(36);
}

/** The same value with the keys of all objects in order and without what is not there. */
function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder);
  if (value === null || typeof value !== "object") return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, inner]) => inner !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
      .map(([key, inner]) => [key, inOrder(inner)]),
  );
}

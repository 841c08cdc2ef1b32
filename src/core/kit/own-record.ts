/**
 * A record that has nothing but its own entries. Looked up by names that people choose, a usual object also answers to
 * `constructor` and `__proto__`, with things nobody put there.
 */
export function ownRecord<T extends object>(entries: T): T {
  return Object.assign(Object.create(null) as T, entries);
}

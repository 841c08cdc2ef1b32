/** Limits on what a feed may hold; a feed beyond them is refused with a sentence rather than read into memory. */
export const LIMITS = {
  /** Deepest nesting of elements or values in a feed. */
  depth: 40,
  /** Characters in one cell; longer ones put the row aside. */
  cell: 1_000_000,
  /** Columns of a feed. */
  columns: 500,
  /** Elements or values in one record. */
  members: 100_000,
  /** Characters without an end of the element, text or value they belong to. */
  unbroken: 16_000_000,
} as const;

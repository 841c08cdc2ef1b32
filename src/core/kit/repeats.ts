/** A 32-bit hash of a whole text (FNV-1a, Fowler, Noll and Vo). */
function textHash(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash;
}

/**
 * Groups of places whose texts are the same, places ascending; texts that stand once are in none. A table of numbers
 * instead of a map of texts, since nearly all texts (links, titles) stand once and only those that don't are of interest.
 * @param textAt the text of each place from 0 to `length` - 1; "" counts as no text
 * @param hash must agree for texts that count as the same
 * @param same whether two texts count as the same
 */
export function repeatedPlaces(
  length: number,
  textAt: (place: number) => string,
  hash: (text: string) => number = textHash,
  same: (a: string, b: string) => boolean = (a, b) => a === b,
): number[][] {
  let size = 1024;
  while (size < length * 2) size *= 2;
  const slots = new Int32Array(size).fill(-1);
  const groups = new Map<number, number[]>();
  for (let place = 0; place < length; place++) {
    const text = textAt(place);
    if (text === "") continue;
    const mixed = Math.imul(hash(text), 0x9e3779b1);
    let at = (mixed ^ (mixed >>> 15)) & (size - 1);
    for (;;) {
      const first = slots[at]!;
      if (first < 0) {
        slots[at] = place;
        break;
      }
      if (same(textAt(first), text)) {
        const group = groups.get(first);
        if (group) group.push(place);
        else groups.set(first, [first, place]);
        break;
      }
      at = (at + 1) & (size - 1);
    }
  }
  return [...groups.values()];
}

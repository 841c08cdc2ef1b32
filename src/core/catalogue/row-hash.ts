import { hashText, mix } from "../kit/random";

/**
 * Makes the function that hashes the rows of a feed, to tell which changed since the last reading. A cell counts with
 * the name of its column and empty cells don't count, so the same row hashes the same when columns come in another
 * order or empty ones are added. The hash has 53 bits: chances of a change missed are some one in 10^16 a row.
 * @param headings may grow while rows are read
 */
export function rowHasher(headings: string[]): (cells: string[]) => number {
  let order: Uint32Array = new Uint32Array(0);
  let names: Uint32Array = new Uint32Array(0);
  const learn = () => {
    const sorted = headings.map((heading, at) => ({ heading, at }));
    sorted.sort((a, b) => (a.heading < b.heading ? -1 : a.heading > b.heading ? 1 : a.at - b.at));
    order = Uint32Array.from(sorted, ({ at }) => at);
    names = Uint32Array.from(sorted, ({ heading }) => hashText(heading));
  };
  return (cells) => {
    if (order.length !== headings.length) learn();
    let a = 0x811c9dc5;
    let b = 0x9747b28c;
    for (let i = 0; i < order.length; i++) {
      const cell = cells[order[i]!];
      if (cell === undefined || cell === "") continue;
      a = Math.imul(a ^ names[i]!, 0x01000193);
      b = Math.imul(b ^ names[i]!, 0x85ebca6b);
      for (let at = 0; at < cell.length; at++) {
        const code = cell.charCodeAt(at);
        a = Math.imul(a ^ code, 0x01000193);
        b = Math.imul(b ^ code, 0x85ebca6b);
      }
    }
    // Cells beyond the header have no name; what they hold must still count.
    for (let at = headings.length; at < cells.length; at++) {
      a = hashText(cells[at]!, a ^ at);
      b = hashText(cells[at]!, b ^ at);
    }
    return mix(a) * 0x200000 + (mix(b) & 0x1fffff);
  };
}

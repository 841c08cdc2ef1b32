/** Text with every kind of line end, `\r\n`, `\r` and `\n`, as `\n`; a file may mix them. */
export function oneLineEnd(text: string): string {
  return text.includes("\r") ? text.replace(/\r\n?/g, "\n") : text;
}

/** The same for text that comes in pieces, one of which can end between the two halves of a line end. */
export async function* withOneLineEnd(pieces: AsyncIterable<string>): AsyncIterable<string> {
  let half = "";
  for await (const piece of pieces) {
    const text = half + piece;
    half = text.endsWith("\r") ? "\r" : "";
    yield oneLineEnd(half === "" ? text : text.slice(0, -1));
  }
  if (half !== "") yield "\n";
}

/** How many lines end in a text. */
export function countLineEnds(text: string): number {
  let count = 0;
  for (let at = text.indexOf("\n"); at >= 0; at = text.indexOf("\n", at + 1)) count++;
  return count;
}

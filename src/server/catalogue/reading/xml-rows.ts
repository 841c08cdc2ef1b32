import { XmlItemReader } from "@/core/catalogue/xml-items";
import type { FeedText } from "./feed-text";
import { LOOK_ROWS, type FeedRows } from "./feed-rows";

/** Opens the items of RSS or Atom XML. */
export async function openXml(text: FeedText): Promise<FeedRows> {
  // A first look finds the columns most items share, so that a mapping can be proposed.
  const first = new XmlItemReader();
  let rows = 0;
  for await (const piece of text.read()) {
    rows += first.push(piece).length;
    if (rows >= LOOK_ROWS) break;
  }
  if (rows < LOOK_ROWS) first.end();
  const headings = [...first.columns];
  return {
    delimiter: null,
    headings,
    repeated: [],
    grows: true,
    sheets: [],
    sheet: null,
    async *batches() {
      const reader = new XmlItemReader();
      let read = 0;
      for await (const piece of text.read()) {
        read += piece.length;
        const found = reader.push(piece);
        for (const column of reader.columns.slice(headings.length)) headings.push(column);
        if (found.length > 0) yield { rows: found, share: read / text.bytes };
      }
      reader.end();
    },
  };
}

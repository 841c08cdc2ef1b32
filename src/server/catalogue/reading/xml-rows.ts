import { ITEM_ELEMENTS, recordElements } from "@/core/catalogue/xml-elements";
import { XmlItemReader } from "@/core/catalogue/xml-items";
import type { FeedText } from "./feed-text";
import { LOOK_ROWS, RowNumbers, type FeedRows } from "./feed-rows";

/** Elements that are offered to choose from. */
const MOST_PARTS = 12;

/**
 * Opens the records of XML: RSS items, Atom entries, or the element that repeats.
 * @param wanted the path of the element that a person chose, or null to find it out
 */
export async function openXml(text: FeedText, sample: string, wanted: string | null): Promise<FeedRows> {
  const parts = recordElements(sample)
    .slice(0, MOST_PARTS)
    .map(({ path }) => path);
  const part = wanted ?? parts[0] ?? null;
  // Items and entries are records wherever they stand.
  const isStandard = part === null || (wanted === null && ITEM_ELEMENTS.has(part.slice(part.lastIndexOf("/") + 1)));
  const record = isStandard ? null : part;
  // A first look finds the columns most items share, so that a mapping can be proposed.
  const first = new XmlItemReader(record);
  let rows = 0;
  for await (const piece of text.read()) {
    rows += first.push(piece).length;
    if (rows >= LOOK_ROWS) break;
  }
  if (rows < LOOK_ROWS) first.end();
  const headings = [...first.columns];
  return {
    ...{ delimiter: null, headings, repeated: [], grows: true, parts, part, headerRow: null, blank: 0 },
    async *batches() {
      const reader = new XmlItemReader(record);
      const numbers = new RowNumbers();
      let read = 0;
      for await (const piece of text.read()) {
        read += piece.length;
        const found = reader.push(piece);
        for (const column of reader.columns.slice(headings.length)) headings.push(column);
        if (found.length > 0) yield { rows: found, numbers: numbers.next(found.length), share: read / text.bytes };
      }
      reader.end();
    },
  };
}

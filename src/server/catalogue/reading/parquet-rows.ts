import { asyncBufferFromFile, parquetMetadataAsync, parquetReadObjects, type FileMetaData } from "hyparquet";
import { compressors } from "hyparquet-compressors";
import { flattenInto } from "@/core/catalogue/flatten";
import { GrowingColumns } from "@/core/catalogue/growing-columns";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { settings } from "../../settings";
import { LOOK_ROWS, RowNumbers, type FeedRows, type RowBatch } from "./feed-rows";

/** Rows made into objects at a time. */
const BATCH = 5000;

/** Rows of a file; bytes that one page may unpack to; values that one column may hold in one group of rows. What a file says of itself is held against these before anything is made of it. */
const MOST_ROWS = 20_000_000;
const MOST_PAGE_BYTES = 256 * 1024 * 1024;
const MOST_VALUES = 50_000_000;

/** The unpackers, each refusing a page that says it is larger than any honest one. */
const boundedCompressors = Object.fromEntries(
  Object.entries(compressors).map(([codec, unpack]) => [
    codec,
    (input: Uint8Array, size: number) => {
      if (size > MOST_PAGE_BYTES) beyond("a part that unpacks to hundreds of megabytes");
      return unpack(input, size);
    },
  ]),
) as typeof compressors;

function beyond(what: string): never {
  giveUp(
    "feed-parquet-beyond",
    `The Parquet file holds ${what}. Nothing was taken in.`,
    "No product feed looks like this.",
  );
}

function checkPromises({ num_rows, row_groups }: FileMetaData): void {
  if (num_rows > MOST_ROWS || row_groups.some((group) => group.num_rows > MOST_ROWS))
    beyond("more than 20 million rows");
  for (const { columns } of row_groups) {
    if (columns.some(({ meta_data }) => meta_data && meta_data.num_values > MOST_VALUES)) {
      beyond("a column of more than 50 million values");
    }
  }
}

function broken(error: unknown): never {
  if (error instanceof FailureError) throw error;
  giveUp(
    "feed-parquet-broken",
    "The Parquet file can't be read: it is damaged, cut off, or packed in a way that is not known. Nothing was taken in.",
    "Write it anew, for example with Snappy, Zstandard or no compression.",
  );
}

/** Opens the rows of a Parquet file. Nested and repeated values are spread over named columns. */
export async function openParquet(file: string): Promise<FeedRows> {
  const buffer = await asyncBufferFromFile(file).catch(broken);
  const metadata = await parquetMetadataAsync(buffer).catch(broken);
  checkPromises(metadata);
  const total = Number(metadata.num_rows);
  const bytes = metadata.row_groups.reduce((sum, group) => sum + Number(group.total_byte_size), 0);
  if (bytes > settings().HOTSHELF_MAX_FEED_MB * 1024 * 1024) {
    giveUp("feed-too-large", `The feed unpacks to more than ${settings().HOTSHELF_MAX_FEED_MB} MB.`, "Split it.");
  }
  if (total === 0) giveUp("feed-nothing-usable", "The Parquet file has columns but no rows.", "Export it again.");
  const read = (rowStart: number, rowEnd: number) =>
    parquetReadObjects({ file: buffer, metadata, compressors: boundedCompressors, rowStart, rowEnd }).catch(broken);
  const look = new GrowingColumns();
  // The file's own columns come first, in its order, also those that the first rows leave empty.
  const seed: string[] = [];
  for (const { name, num_children, path_in_schema } of leaves(metadata.schema)) {
    if (!num_children && path_in_schema === 1) look.put(seed, name, "x");
  }
  for (const record of await read(0, Math.min(LOOK_ROWS, total))) flattenInto(look, [], record);
  const headings = look.names;
  return {
    headings,
    repeated: [],
    grows: true,
    delimiter: null,
    ...{ parts: [], part: null, headerRow: null, blank: 0 },
    async *batches(): AsyncIterable<RowBatch> {
      const numbers = new RowNumbers();
      for (let from = 0; from < total; from += BATCH) {
        const records = await read(from, Math.min(total, from + BATCH));
        const rows = records.map((record) => {
          const row: string[] = [];
          flattenInto(look, row, record);
          return row;
        });
        yield { rows, numbers: numbers.next(rows.length), share: Math.min(1, (from + BATCH) / total) };
      }
    },
  };
}

/** The schema's elements with their depth under the root, which the file lists depth first. */
function leaves(schema: { name: string; num_children?: number | undefined }[]) {
  const left: number[] = [];
  return schema.map(({ name, num_children }) => {
    const depth = left.length;
    while (left.length > 0 && --left[left.length - 1]! === 0) left.pop();
    if (num_children) left.push(num_children);
    return { name, num_children, path_in_schema: depth };
  });
}

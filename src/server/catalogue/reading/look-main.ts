import { FailureError } from "@/core/kit/outcome";
import { endWithParent } from "../../process-watch";
import { BrokenRow, type FeedRows } from "./feed-rows";
import { LOOK_SAMPLES, type LookAnswer, type LookQuestion } from "./look";
import { openFeed } from "./open-feed";

/** The process that looks into files, one question at a time; see `look.ts`. */
async function look({ file, choice }: LookQuestion): Promise<LookAnswer> {
  try {
    const feed = await openFeed(file, choice);
    const { format, encoding, delimiter, compressed, parts, part, headerRow } = feed;
    const samples = await firstRows(feed);
    // Headings of formats without a header grow while rows are read, so they come last.
    const { headings, repeated } = feed;
    return { look: { format, encoding, delimiter, compressed, parts, part, headerRow, headings, repeated, samples } };
  } catch (error) {
    if (error instanceof FailureError) return { failure: error.failure };
    return { broken: "something in it can't be understood." };
  }
}

async function firstRows(feed: FeedRows): Promise<string[][]> {
  const samples: string[][] = [];
  for await (const { rows } of feed.batches()) {
    for (const row of rows) if (!(row instanceof BrokenRow) && samples.length < LOOK_SAMPLES) samples.push(row);
    if (samples.length >= LOOK_SAMPLES) break;
  }
  return samples;
}

endWithParent();
process.on("message", (question) => void look(question as LookQuestion).then((answer) => process.send?.(answer)));
process.on("disconnect", () => process.exit(0));

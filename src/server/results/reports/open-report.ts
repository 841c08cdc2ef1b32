import { giveUp } from "@/core/kit/outcome";
import { BrokenRow } from "../../catalogue/reading/feed-rows";
import { openFeed, readingSchema, type OpenFeed, type ReadingChoice } from "../../catalogue/reading/open-feed";

const SAMPLES = 200;

/** Opens a report file; its header may stand below lines about the file. */
export function openReport(file: string, choice: Partial<ReadingChoice> | null): Promise<OpenFeed> {
  return openFeed(file, readingSchema.parse({ ...choice, headerBelow: true }));
}

/** The first rows of a report. @throws FailureError when there are none */
export async function reportSamples(report: OpenFeed): Promise<string[][]> {
  const samples: string[][] = [];
  for await (const { rows } of report.batches()) {
    for (const row of rows) if (!(row instanceof BrokenRow)) samples.push(row);
    if (samples.length >= SAMPLES) break;
  }
  if (samples.length === 0) {
    giveUp("report-empty", "The report has a header but no rows.", "Export it again for days on which something ran.");
  }
  return samples.slice(0, SAMPLES);
}

import { giveUp } from "@/core/kit/outcome";
import { lookInto, type Look } from "../../catalogue/reading/look";
import { openFeed, readingSchema, type OpenFeed, type ReadingChoice } from "../../catalogue/reading/open-feed";

function reportReading(choice: Partial<ReadingChoice> | null): ReadingChoice {
  return readingSchema.parse(choice ?? {});
}

/** Opens a report file for reading all of it. */
export function openReport(file: string, choice: Partial<ReadingChoice> | null): Promise<OpenFeed> {
  return openFeed(file, reportReading(choice));
}

/** What a report file is, and its first rows. @throws FailureError when there are none */
export async function lookIntoReport(file: string, choice: Partial<ReadingChoice> | null): Promise<Look> {
  const look = await lookInto(file, reportReading(choice));
  if (look.samples.length === 0) {
    giveUp("report-empty", "The report has a header but no rows.", "Export it again for days on which something ran.");
  }
  return look;
}

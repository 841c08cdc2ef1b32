import { ok } from "@/core/kit/outcome";
import { type startDispatch } from "../../dispatch/dispatches";
import { windowSchema } from "../../results/window";
import { readingSchema } from "../../catalogue/reading/open-feed";
import { z } from "zod";

/** The window of days a request asks for. */
export const days = z.object({ days: windowSchema });
/** A page of a long list. */
export const page = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(10_000).default(200),
});

/** The answer for work that was queued. */
export function jobAnswer(outcome: Awaited<ReturnType<typeof startDispatch>>) {
  return outcome.ok ? ok({ job: outcome.value.id }) : outcome;
}

/** How a person says that a file is to be read; empty texts are what is found out. */
export const readingQuerySchema = z.object({
  encoding: z.string().optional(),
  delimiter: z.string().optional(),
  part: z.string().max(200).optional(),
  headerRow: z.string().optional(),
});

/** What a person chose in the query, or null when nothing was. */
export function choiceIn({ encoding, delimiter, part, headerRow }: z.infer<typeof readingQuerySchema>) {
  if ([encoding, delimiter, part, headerRow].every((value) => value === undefined)) return null;
  return readingSchema.parse({
    encoding: encoding || null,
    delimiter: delimiter === "tab" ? "\t" : delimiter || null,
    part: part || null,
    headerRow: headerRow ? Number(headerRow) : null,
  });
}

import { z } from "zod";
import type { FeedSource } from "@/db/schema";

/** Where a feed is read from by itself: an address, or a file in the watched folder. */
export const feedSourceSchema: z.ZodType<FeedSource> = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("url"),
    url: z
      .string()
      .trim()
      .max(2000)
      .refine((url) => /^https?:\/\/[^\s/]+/i.test(url), "must start with https:// or http://"),
  }),
  z.object({
    kind: z.literal("folder"),
    pattern: z
      .string()
      .trim()
      .min(1)
      .max(200)
      .refine((name) => !/[/\\]|\.\./.test(name), "a file name, with * for what changes in it"),
  }),
]);

/** What a source says of a version of its file, by which it is known again. */
export const feedVersionSchema = z.object({
  etag: z.string().optional(),
  lastModified: z.string().optional(),
  file: z.string().optional(),
});

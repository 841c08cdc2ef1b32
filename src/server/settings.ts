import path from "node:path";
import { z } from "zod";

const settingsSchema = z.object({
  HOST: z.string().default("127.0.0.1"),
  PORT: z.coerce.number().int().min(1).max(65_535).default(4310),
  HOTSHELF_DATA_DIR: z.string().default("data"),
  /** A libSQL address with `{workspace}` in it; by default a file in the data folder. */
  DATABASE_URL: z
    .string()
    .refine((url) => url.includes("{workspace}"), "needs {workspace} where the workspace's name goes")
    .optional(),
  DATABASE_AUTH_TOKEN: z.string().optional(),
  /** Largest upload, and largest feed after decompression, in MB. */
  HOTSHELF_MAX_UPLOAD_MB: z.coerce.number().positive().default(1024),
  HOTSHELF_MAX_FEED_MB: z.coerce.number().positive().default(4096),
  LOG_LEVEL: z.enum(["trace", "debug", "info", "warn", "error", "silent"]).default("info"),
});

export type Settings = z.infer<typeof settingsSchema>;

let cached: Settings | undefined;

/** The settings from the environment, checked once. @throws Error that names the variable and what is wrong with it. */
export function settings(): Settings {
  if (!cached) {
    const parsed = settingsSchema.safeParse(process.env);
    if (!parsed.success) {
      const lines = parsed.error.issues.map((issue) => `${issue.path.join(".")}: ${issue.message}`);
      throw new Error(`Settings in the environment are wrong.\n${lines.join("\n")}`);
    }
    cached = parsed.data;
  }
  return cached;
}

/** The folder that holds databases and uploads. */
export function dataDir(): string {
  return path.resolve(/* turbopackIgnore: true */ settings().HOTSHELF_DATA_DIR);
}

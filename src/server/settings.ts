import path from "node:path";
import { z } from "zod";

const settingsSchema = z.object({
  HOST: z.string().default("127.0.0.1"),
  PORT: z.coerce.number().int().min(1).max(65_535).default(4310),
  HOTSHELF_DATA_DIR: z.string().default("data"),
  /** Where the start script has bundled the programs that are processes of their own; unset they run from their sources. */
  HOTSHELF_PROGRAMS: z.string().optional(),
  /** A libSQL address with `{workspace}` in it; by default a file in the data folder. */
  DATABASE_URL: z
    .string()
    .refine((url) => url.includes("{workspace}"), "needs {workspace} where the workspace's name goes")
    .optional(),
  DATABASE_AUTH_TOKEN: z.string().optional(),
  /** Largest upload, and largest feed after decompression, in MB. */
  HOTSHELF_MAX_UPLOAD_MB: z.coerce.number().positive().default(1024),
  HOTSHELF_MAX_FEED_MB: z.coerce.number().positive().default(4096),
  /** The file with the key that passwords are sealed with; by default in the account's configuration folder. */
  HOTSHELF_KEY_FILE: z.string().optional(),
  /** The most memory of one job, in MB. */
  HOTSHELF_JOB_MEMORY_MB: z.coerce.number().int().min(256).default(4096),
  /** Room for a workspace's uploads that were not read in yet, in MB. */
  HOTSHELF_UPLOADS_MB: z.coerce.number().positive().default(8192),
  /** Has people sign in also where the server answers this machine only. */
  HOTSHELF_SIGN_IN: z.stringbool().default(false),
  /** Files of a certificate and its key, with which the server speaks TLS itself. */
  HOTSHELF_TLS_CERT: z.string().optional(),
  HOTSHELF_TLS_KEY: z.string().optional(),
  /** Addresses of proxies that speak TLS in front of this server, and whose word on who asks is taken, parted by commas. */
  HOTSHELF_TRUSTED_PROXY: z
    .string()
    .default("")
    .transform((text) => new Set(text.split(/[\s,]+/).filter(Boolean))),
  /** An identity provider (OpenID Connect) at which people may sign in, and this server's name and secret there. */
  HOTSHELF_SSO_ISSUER: z.url().optional(),
  HOTSHELF_SSO_CLIENT: z.string().optional(),
  HOTSHELF_SSO_SECRET: z.string().optional(),
  /** Names beside this machine's own under which the server answers, parted by commas. */
  HOTSHELF_ALLOWED_HOSTS: z
    .string()
    .default("")
    .transform(
      (text) =>
        new Set(
          text
            .toLowerCase()
            .split(/[\s,]+/)
            .filter(Boolean),
        ),
    ),
  /** Folder watched for feeds, with a folder for each workspace in it; by default `inbox` in the data folder. */
  HOTSHELF_INBOX_DIR: z.string().optional(),
  /** A file in a watched folder is read once nothing was written to it for so long. */
  HOTSHELF_STILL_SECONDS: z.coerce.number().min(0).default(20),
  /** Whether feeds and pages may be fetched from private addresses. */
  HOTSHELF_PRIVATE_ADDRESSES: z.stringbool().default(false),
  /** Hosts that stand-ins answer for, such as `shop.example=127.0.0.1:4311`, parted by commas. */
  HOTSHELF_HOSTS: z
    .string()
    .default("")
    .transform((text, context) => {
      const hosts = new Map<string, string>();
      for (const entry of text.split(",").filter((part) => part.trim() !== "")) {
        const found = /^\s*([\w.-]+)=([\w.-]+:\d+)\s*$/.exec(entry);
        if (!found) context.addIssue({ code: "custom", message: `"${entry}" is not of the form host=address:port` });
        else hosts.set(found[1]!.toLowerCase(), found[2]!);
      }
      return hosts;
    }),
  /** Longest time that fetching a feed may take, and the pause before it is tried again. */
  HOTSHELF_FETCH_SECONDS: z.coerce.number().positive().default(600),
  HOTSHELF_RETRY_MS: z.coerce.number().min(0).default(3000),
  /** Pause between two pages of one shop when landing links are checked. */
  HOTSHELF_LINK_GAP_MS: z.coerce.number().min(0).default(100),
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

/** For tests that change the environment: the settings are read anew when next asked for. */
export function forgetSettings(): void {
  cached = undefined;
}

/** Names and addresses by which a machine calls itself. */
export const LOOPBACK = /^(?:localhost|127(?:\.\d{1,3}){3}|::1|\[::1\])$/;

/** Whether people must sign in: wherever others than this machine's own account may reach the server, or where it was asked for. */
export function isSignInOn(): boolean {
  const { HOST, HOTSHELF_SIGN_IN, HOTSHELF_TRUSTED_PROXY } = settings();
  return HOTSHELF_SIGN_IN || !LOOPBACK.test(HOST.toLowerCase()) || HOTSHELF_TRUSTED_PROXY.size > 0;
}

/** The folder that holds databases and uploads. */
export function dataDir(): string {
  return path.resolve(/* turbopackIgnore: true */ settings().HOTSHELF_DATA_DIR);
}

/** The folder watched for a workspace's feeds. */
export function inboxDir(slug: string): string {
  const { HOTSHELF_INBOX_DIR } = settings();
  return path.join(HOTSHELF_INBOX_DIR ? path.resolve(HOTSHELF_INBOX_DIR) : path.join(dataDir(), "inbox"), slug);
}

import { z } from "zod";
import type { FeedSource } from "@/db/schema";
import { decoded } from "../outside/fetch-safely";
import { seal, unseal } from "../secrets";

const urlSchema = z
  .string()
  .trim()
  .max(2000)
  .refine((url) => /^https?:\/\/[^\s/]+/i.test(url), "must start with https:// or http://");

const folderSchema = z.object({
  kind: z.literal("folder"),
  pattern: z
    .string()
    .trim()
    .min(1)
    .max(200)
    .refine((name) => !/[/\\]|\.\./.test(name), "a file name, with * for what changes in it"),
});

/** Where a feed is read from by itself, as a person says it: an address, or a file in the watched folder. */
export const feedSourceSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("url"),
    url: urlSchema,
    user: z.string().trim().max(200).optional(),
    /** Left out keeps the one that is there, as long as address and user stay; empty takes it away. It is never given out again. */
    password: z.string().max(500).optional(),
  }),
  folderSchema,
]);

export type SourceInput = z.infer<typeof feedSourceSchema>;

/** The same as it is kept: a password sealed. */
export const keptSourceSchema: z.ZodType<FeedSource> = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("url"), url: urlSchema, user: z.string().optional(), sealed: z.string().optional() }),
  folderSchema,
]);

/** The same as it is shown: whether there is a password, and never which. */
export type ShownSource =
  { kind: "url"; url: string; user?: string; hasPassword?: true; isCut?: true } | { kind: "folder"; pattern: string };

/** Takes a login out of an address. */
function splitLogin(address: string): { url: string; user?: string; password?: string } {
  const parsed = URL.canParse(address) ? new URL(address) : null;
  if (!parsed || (parsed.username === "" && parsed.password === "")) return { url: address };
  const [user, password] = [parsed.username, parsed.password].map(decoded) as [string, string];
  parsed.username = "";
  parsed.password = "";
  return { url: parsed.href, user, password };
}

const hostOf = (url: string) => (URL.canParse(url) ? new URL(url).host : null);

/**
 * A source as it is kept. A login written into the address is taken out of it.
 * @param before the source so far, whose password stays for the same user at the same host where none is given
 */
export function sealSource(source: SourceInput, before: FeedSource | null = null): FeedSource {
  if (source.kind !== "url") return source;
  const written = splitLogin(source.url);
  const user = source.user || written.user;
  const password = source.password ?? written.password;
  const login = user ? { user } : {};
  if (password !== undefined) {
    return { kind: "url", url: written.url, ...login, ...(password ? { sealed: seal(password) } : {}) };
  }
  const isSame =
    before?.kind === "url" && hostOf(before.url) === hostOf(written.url) && (before.user ?? "") === (user ?? "");
  return { kind: "url", url: written.url, ...login, ...(isSame && before.sealed ? { sealed: before.sealed } : {}) };
}

/** A source as it is shown to people and scripts. */
export function showSource(source: FeedSource | null): ShownSource | null {
  if (source?.kind !== "url") return source;
  // Sources that were kept by earlier versions may still have the login in their address.
  const written = splitLogin(source.url);
  const user = source.user ?? written.user;
  const hasPassword = source.sealed !== undefined || Boolean(written.password);
  return { kind: "url", url: written.url, ...(user ? { user } : {}), ...(hasPassword ? { hasPassword } : {}) };
}

/** The place of an address without what may be a key in it: its host, for logs and for those who can't change it. */
export function placeOf(url: string): string {
  return URL.canParse(url) ? `${new URL(url).origin}/…` : "an address";
}

/** A source as it is shown to those who may not change it: keys can stand in any part of an address, so they see its host. */
export function cutSource(source: ShownSource | null): ShownSource | null {
  return source?.kind === "url" ? { kind: "url", url: placeOf(source.url), isCut: true } : source;
}

/** What is sent along to an address that asks for a login (RFC 7617); null without one. @throws FailureError when the password can't be opened */
export function loginOf(source: FeedSource): string | null {
  if (source.kind !== "url" || (!source.user && !source.sealed)) return null;
  const password = source.sealed ? unseal(source.sealed) : "";
  return `Basic ${Buffer.from(`${source.user ?? ""}:${password}`).toString("base64")}`;
}

/** What a source says of a version of its file, by which it is known again. */
export const feedVersionSchema = z.object({
  etag: z.string().optional(),
  lastModified: z.string().optional(),
  file: z.string().optional(),
});

import type { FileAnswer } from "../files/answers";
import { z } from "zod";
import type { Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import type { Asker } from "../sign-in/asker";
import type { Needs, Role } from "../sign-in/roles";
import type { WorkspaceInfo } from "../workspaces";

/** An answer that gives a browser cookies. */
export interface CookieAnswer {
  value: unknown;
  cookies: string[];
}

/** An answer that sends a browser on. */
export interface RedirectAnswer {
  location: string;
  cookies: string[];
}

/** What an endpoint's handler is given: parsed path, query and body. A raw body comes as a stream. */
export interface EndpointRequest<Q, B> {
  path: Record<string, string>;
  query: Q;
  body: B;
  raw: ReadableStream<Uint8Array> | null;
  /** Who makes the request. */
  who: string;
  asker: Asker | null;
  headers: Headers;
  url: string;
}

/** One operation of the HTTP API. The same schemas check the request and describe it in the OpenAPI document. */
export interface Endpoint<Q = unknown, B = unknown> {
  method: "GET" | "POST" | "PUT" | "DELETE";
  /** Who may ask for it. */
  role: Needs;
  /** What can't be undone with ease, or opens doors: it wants the password within the hour. */
  isGrave?: true;
  /** With parameters in braces; below `{workspace}` when `scope` says so. */
  path: string;
  summary: string;
  query?: z.ZodType<Q>;
  body?: z.ZodType<B>;
  /** The body is a file, taken as a stream. */
  rawBody?: boolean;
  /** Status of success; 200 when not given, 202 for work that goes on as a job. */
  status?: number;
  /** Largest JSON body, MB; two where it is left out. */
  bodyMb?: number;
  /** Pages of other sites may lead here: somebody comes back from an identity provider. */
  isFromElsewhere?: true;
  /** Takes long or may: it is answered where it holds up no quick request. */
  heavy?: true;
}

export type WorkspaceHandler<Q, B> = (
  request: EndpointRequest<Q, B> & { db: Database; info: WorkspaceInfo },
) => Promise<Outcome<unknown> | FileAnswer | CookieAnswer | Json>;

export type GlobalHandler<Q, B> = (
  request: EndpointRequest<Q, B>,
) => Promise<Outcome<unknown> | FileAnswer | RedirectAnswer | Json>;

type Json = object;

export interface BoundEndpoint extends Endpoint {
  workspace: boolean;
  run: (request: EndpointRequest<unknown, unknown> & { db?: Database; info?: WorkspaceInfo }) => Promise<unknown>;
}

/** An operation inside a workspace; its path is below `/api/v1/{workspace}`. */
export function inWorkspace<Q = Record<string, never>, B = undefined>(
  endpoint: Endpoint<Q, B>,
  handler: WorkspaceHandler<Q, B>,
): BoundEndpoint {
  return { ...(endpoint as Endpoint), workspace: true, run: handler as BoundEndpoint["run"] };
}

/** An operation outside any workspace; a role in one can't open it. */
export function global<Q = Record<string, never>, B = undefined>(
  endpoint: Endpoint<Q, B> & { role: Exclude<Needs, Role> },
  handler: GlobalHandler<Q, B>,
): BoundEndpoint {
  return { ...(endpoint as Endpoint), workspace: false, run: handler as BoundEndpoint["run"] };
}

/** The number that stands in a path. @throws ZodError where it is none */
export function pathNumber(path: Record<string, string>, name: string): number {
  return z
    .object({
      [name]: z.coerce
        .number()
        .int()
        .min(1)
        .max(2 ** 48),
    })
    .parse({ [name]: path[name] })[name]!;
}

/** The parameters of a path that fits a pattern, or null. @throws URIError where a percent sign stands for nothing */
export function matchPath(pattern: string, path: string): Record<string, string> | null {
  const wanted = pattern.split("/");
  const given = path.split("/");
  if (wanted.length !== given.length) return null;
  const found: Record<string, string> = {};
  for (let i = 0; i < wanted.length; i++) {
    const want = wanted[i]!;
    const have = given[i]!;
    if (want.startsWith("{")) found[want.slice(1, -1)] = decodeURIComponent(have);
    else if (want !== have) return null;
  }
  return found;
}

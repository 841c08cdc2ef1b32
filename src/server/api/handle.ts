import type { FileAnswer } from "../files/answers";
import { randomUUID } from "node:crypto";
import { z } from "zod";
import { FailureError, type Failure, type Outcome } from "@/core/kit/outcome";
import { ACCOUNT_VERSION } from "@/core/account/version-header";
import type { Database } from "@/db/client";
import { readVersions } from "../account/state";
import { log } from "../log";
import { actAs, NOBODY } from "../person";
import { askerOf, type Asker } from "../sign-in/asker";
import { FIRST_ASK, noteFirstAsk } from "../read/first-asks";
import { keptOut, noSuchWorkspace } from "../sign-in/kept-out";
import { storageFailure } from "../disk";
import { findWorkspace } from "../workspaces";
import { checkTexts, readJson, refusal } from "./front-door";
import {
  matchPath,
  type BoundEndpoint,
  type EndpointRequest,
  type CookieAnswer,
  type RedirectAnswer,
} from "./endpoint";
import { ENDPOINTS } from "./endpoints";
import { openApiDocument } from "./openapi";
import { PREFIX } from "./prefix";

const STATUS_BY_CODE: [pattern: RegExp, status: number][] = [
  [/-unknown$|-gone$/, 404],
  [
    /^(basket-in-use|basket-moved|account-moved|account-busy|change-overtaken|dispatch-under-way|dispatch-overtaken|dispatch-not-takeable|changed-meanwhile|edit-undone|workspace-exists|workspace-file-exists|feed-second)$/,
    409,
  ],
  [/too-large$/, 413],
  [/^sign-in-needed$|^sign-in-wrong$/, 401],
  [/^sign-in-throttled$/, 429],
  [/^forbidden/, 403],
  [/^host-foreign$/, 421],
  [/^workspace-(?:missing|newer|broken|full|read-only)$/, 503],
  [/^disk-/, 507],
  [/^input-type$/, 415],
  [/^path-malformed$|^input-/, 400],
];

const METHODS = ["GET", "POST", "PUT", "DELETE"];

function errorResponse(failure: Failure, status?: number): Response {
  const known = STATUS_BY_CODE.find(([pattern]) => pattern.test(failure.code))?.[1];
  return Response.json({ error: failure }, { status: status ?? known ?? 422 });
}

/** The operation that a method and path stand for, with the path's parameters; null when there is none. */
export function findEndpoint(method: string, path: string) {
  const wanted = method === "HEAD" ? "GET" : method;
  for (const endpoint of ENDPOINTS) {
    if (endpoint.method !== wanted) continue;
    const parameters = matchPath(endpoint.workspace ? `{workspace}/${endpoint.path}` : endpoint.path, path);
    if (parameters) return { endpoint, parameters };
  }
  return null;
}

/** Whether an operation is one that pages of other sites may lead to. */
function isFromElsewhere(method: string, path: string): boolean {
  try {
    return findEndpoint(method, path)?.endpoint.isFromElsewhere ?? false;
  } catch {
    return false;
  }
}

/** Answers any request below `/api/v1`. `path` has no leading slash. */
export async function handleApi(request: Request, path: string): Promise<Response> {
  const refused = refusal(request, isFromElsewhere(request.method, path));
  if (refused) return errorResponse(refused);
  if (path === "openapi.json") return Response.json(openApiDocument(ENDPOINTS));
  let found: ReturnType<typeof findEndpoint>;
  let others: string[];
  try {
    found = findEndpoint(request.method, path);
    others = found ? [] : METHODS.filter((method) => findEndpoint(method, path) !== null);
  } catch {
    return errorResponse({
      code: "path-malformed",
      message: "The address holds a percent sign that stands for no character.",
      hint: "Write a percent sign itself as %25.",
    });
  }
  if (found) return answer(request, found.endpoint, found.parameters);
  if (others.length > 0) {
    const allow = others.join(", ");
    const refusedMethod = errorResponse(
      { code: "method-unknown", message: `${request.method} does nothing here; ${allow} does.` },
      405,
    );
    refusedMethod.headers.set("allow", allow);
    return refusedMethod;
  }
  return errorResponse({
    code: "path-unknown",
    message: "There is nothing at this address.",
    hint: "See openapi.json.",
  });
}

async function answer(request: Request, endpoint: BoundEndpoint, path: Record<string, string>): Promise<Response> {
  try {
    const asker = await askerOf(request.headers);
    const barred = await keptOut(request, endpoint, path["workspace"], asker);
    if (barred) return errorResponse(barred);
    const parsed = await parseRequest(request, endpoint, path, asker);
    if (endpoint.workspace) {
      const found = await findWorkspace(path["workspace"]!);
      if (!found) return errorResponse(noSuchWorkspace(path["workspace"]!));
      // Read before what is asked for, so that nothing newer is taken for seen.
      const { version } = await readVersions(found.db.$client);
      const result = await actAs(parsed.who, () => endpoint.run({ ...parsed, db: found.db, info: found.info }));
      if (request.headers.has(FIRST_ASK) && endpoint.method === "GET")
        // Nobody waits for it: another process may be writing for seconds.
        void noteAsked(found.db, request, path["workspace"]!);
      const answered = respond(result as Outcome<unknown> | FileAnswer | CookieAnswer, endpoint.status ?? 200);
      answered.headers.set(ACCOUNT_VERSION, String(version));
      return answered;
    }
    const result = await actAs(parsed.who, () => endpoint.run(parsed));
    return respond(result as Outcome<unknown> | FileAnswer | CookieAnswer | RedirectAnswer, endpoint.status ?? 200);
  } catch (error) {
    if (error instanceof FailureError) return errorResponse(error.failure);
    if (error instanceof z.ZodError) return errorResponse(inputFailure(error), 400);
    const noRoom = storageFailure(error);
    if (noRoom) return errorResponse(noRoom);
    const reference = randomUUID().slice(0, 8);
    log.error({ err: error, reference, path: endpoint.path }, "request failed unexpectedly");
    const message = `Something unforeseen went wrong. Reference ${reference}.`;
    return errorResponse({ code: "unexpected", message, hint: "Try again; the log has the details." }, 500);
  }
}

/** Notes what a page asked first, which is not worth failing for. */
async function noteAsked(db: Database, { url }: Request, workspace: string): Promise<void> {
  const { pathname, search } = new URL(url);
  const before = `${PREFIX}${workspace}/`;
  if (!pathname.startsWith(before)) return;
  await noteFirstAsk(db, pathname.slice(before.length) + search).catch((error: unknown) =>
    log.debug({ err: error }, "a first ask was not noted"),
  );
}

function inputFailure(error: z.ZodError): Failure {
  const lines = error.issues.slice(0, 5).map((issue) => {
    const where = issue.path.join(".");
    return where ? `${where}: ${issue.message}` : issue.message;
  });
  return { code: "input-invalid", message: lines.join("; "), hint: "Nothing was changed." };
}

async function parseRequest(
  request: Request,
  endpoint: BoundEndpoint,
  path: Record<string, string>,
  asker: Asker | null,
): Promise<EndpointRequest<unknown, unknown>> {
  const asked = Object.fromEntries(new URL(request.url).searchParams);
  checkTexts({ path, query: asked });
  const query = endpoint.query?.parse(asked) ?? {};
  const { headers } = request;
  const who = asker?.who ?? NOBODY;
  if (endpoint.rawBody)
    return { path, query, body: undefined, raw: request.body, who, asker, headers, url: request.url };
  const body = endpoint.body ? endpoint.body.parse(await readJson(request, endpoint.bodyMb)) : undefined;
  return { path, query, body, raw: null, who, asker, headers, url: request.url };
}

function respond(result: Outcome<unknown> | FileAnswer | CookieAnswer | RedirectAnswer, status: number): Response {
  if ("file" in result) {
    return new Response(result.file, {
      headers: {
        "content-type": result.contentType,
        "content-disposition": `attachment; filename="${result.name.replace(/[^\w.-]/g, "-")}"`,
      },
    });
  }
  if ("location" in result) {
    const headers = new Headers({ location: result.location });
    for (const cookie of result.cookies) headers.append("set-cookie", cookie);
    return new Response(null, { status: 302, headers });
  }
  if ("cookies" in result) {
    const answered = Response.json(result.value, { status });
    for (const cookie of result.cookies) answered.headers.append("set-cookie", cookie);
    return answered;
  }
  return result.ok ? Response.json(result.value, { status }) : errorResponse(result.error);
}

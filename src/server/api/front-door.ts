import { FailureError, giveUp, type Failure } from "@/core/kit/outcome";
import { isSecure } from "../exposure";
import { isOwnHost } from "./own-host";

/** A request from another site's page. Scripts send no Origin, and no word of where they are. */
function isForeign(request: Request): boolean {
  const site = request.headers.get("sec-fetch-site");
  if (site && site !== "same-origin" && site !== "none") return true;
  if (request.method === "GET" || request.method === "HEAD") return false;
  const origin = request.headers.get("origin");
  if (!origin) return false;
  return origin !== `${isSecure() ? "https" : "http"}://${request.headers.get("host")}`;
}

/** Why a request is not answered at all, or null. @param isFromElsewhere whether pages of other sites may lead to what it asks for */
export function refusal(request: Request, isFromElsewhere = false): Failure | null {
  if (!isOwnHost(request.headers.get("host"))) {
    return {
      code: "host-foreign",
      message: "This server does not answer under that name.",
      hint: "Whoever runs it can allow the name with HOTSHELF_ALLOWED_HOSTS.",
    };
  }
  return isForeign(request) && !isFromElsewhere
    ? { code: "forbidden-origin", message: "Requests are taken from this server's own pages and from scripts only." }
    : null;
}

const MB = 1024 * 1024;
const USUAL_MB = 2;

/** The body of a request as JSON. @throws FailureError when it is too large, no JSON, or said to be something else */
export async function readJson(request: Request, mostMb = USUAL_MB): Promise<unknown> {
  const type = request.headers.get("content-type") ?? "";
  if (!/^application\/(?:[\w.+-]+\+)?json\b/i.test(type)) {
    giveUp(
      "input-type",
      `The body is sent as ${type === "" ? "nothing in particular" : `"${type.slice(0, 60)}"`}; JSON is needed.`,
      "Send it with the header Content-Type: application/json.",
    );
  }
  const text = await readText(request, mostMb * MB);
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch {
    giveUp("input-not-json", "The body is not JSON.", "Nothing was changed.");
  }
  checkTexts(body);
  return body;
}

/** Reads a body piece by piece, so that one without end is not gathered first. */
async function readText(request: Request, most: number): Promise<string> {
  const tooLarge = () =>
    new FailureError({
      code: "input-too-large",
      message: `The body is larger than ${most / MB} MB. Nothing was changed.`,
      hint: "Send it in several parts.",
    });
  if (Number(request.headers.get("content-length") ?? 0) > most) throw tooLarge();
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    size += part.length;
    if (size > most) throw tooLarge();
    parts.push(part);
  }
  return new TextDecoder().decode(Buffer.concat(parts));
}

/** Depth of JSON that is looked into; no body of ours nests deeper. */
const MOST_DEPTH = 60;

/** Refuses texts with half a character or a null in them, which files and databases cut short. @throws FailureError */
export function checkTexts(value: unknown, depth = 0): void {
  if (typeof value === "string") {
    if (!value.isWellFormed() || value.includes("\u0000")) {
      giveUp("input-half-character", "A text holds half a character or a null character. Nothing was changed.");
    }
    return;
  }
  if (value === null || typeof value !== "object") return;
  if (depth > MOST_DEPTH) giveUp("input-deep", `The body nests deeper than ${MOST_DEPTH} levels.`);
  for (const [key, inner] of Object.entries(value)) {
    checkTexts(key, depth);
    checkTexts(inner, depth + 1);
  }
}

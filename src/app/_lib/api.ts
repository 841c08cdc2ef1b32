"use client";

import { useQuery, type UseQueryOptions } from "@tanstack/react-query";
import { toast } from "sonner";
import type { Failure } from "@/core/kit/outcome";
import { ownPath } from "@/core/kit/own-path";
import { findAnswer, type Work } from "@/core/kit/work";
import type { JobView } from "@/server/jobs/jobs";
import { noteSeen } from "./seen";

/** An answer that says what went wrong, in words for a person. */
export class ApiError extends Error {
  constructor(
    readonly failure: Failure,
    readonly status: number,
  ) {
    super(failure.message);
  }
}

async function read<T>(response: Response): Promise<T> {
  const body: unknown = await response.json().catch(() => null);
  noteSeen(body, response);
  if (response.ok) return body as T;
  const failure = (body as { error?: Failure } | null)?.error ?? {
    code: "no-answer",
    message: `The server answered ${response.status} without saying why.`,
    hint: "Reload the page; if it goes on, look at the server's log.",
  };
  throw new ApiError(failure, response.status);
}

function send(path: string, init?: RequestInit): Promise<Response> {
  return fetch(`/api/v1/${path}`, init).catch(() => {
    const message = "The server can't be reached.";
    const hint = "Check that Hot Shelf is still running. A workspace's pages are read again when it answers.";
    throw new ApiError({ code: "offline", message, hint }, 0);
  });
}

/** Asks a person to prove who they are; set by the dialog that does. */
let askForProof: (() => Promise<boolean>) | null = null;

/** Says who asks for the password once more. @returns takes that back */
export function onUnproved(ask: () => Promise<boolean>): () => void {
  askForProof = ask;
  return () => {
    if (askForProof === ask) askForProof = null;
  };
}

async function request<T>(path: string, init?: RequestInit): Promise<T> {
  try {
    return await read<T>(await send(path, init));
  } catch (error) {
    if (!(error instanceof ApiError)) throw error;
    if (error.failure.code === "sign-in-needed") goToSignIn();
    if (error.failure.code !== "forbidden-unproved" || !(await askForProof?.())) throw error;
    return read<T>(await send(path, init));
  }
}

/** Leaves for another page of this server and everything that this one holds in memory. */
export function leaveFor(path: string): void {
  window.location.href = new URL(ownPath(path), window.location.origin).href;
}

/** Numbers that are tried before the page may do something else, some ten milliseconds' worth. */
const TRIED_AT_ONCE = 5000;

/** Does work that the server wants first, leaving the page free to answer meanwhile. */
async function doWork(work: Work): Promise<{ challenge: string; answer: number }> {
  for (let from = 0; ; from += TRIED_AT_ONCE) {
    const answer = findAnswer(work, from, TRIED_AT_ONCE);
    if (answer !== null) return { challenge: work.challenge, answer };
    await new Promise((resolve) => setTimeout(resolve));
  }
}

/**
 * Sends a proof of who somebody is; where there were many failed tries, with the work that is wanted for one more.
 * @param onWork says that this takes some seconds
 */
export async function apiProve<T>(path: string, proof: object, onWork: () => void): Promise<T> {
  try {
    return await apiSend<T>(path, proof);
  } catch (error) {
    const work = error instanceof ApiError ? error.failure.work : undefined;
    if (!work) throw error;
    onWork();
    return apiSend<T>(path, { ...proof, work: await doWork(work) });
  }
}

/** Leaves for the sign-in page, which leads back here. */
function goToSignIn(): void {
  const { pathname, search } = window.location;
  if (pathname === "/sign-in" || pathname.startsWith("/welcome/")) return;
  leaveFor(`/sign-in?to=${encodeURIComponent(pathname + search)}`);
}

function withJson(body: unknown, method: "POST" | "PUT"): RequestInit {
  return { method, headers: { "content-type": "application/json" }, body: JSON.stringify(body ?? {}) };
}

/** Reads from the API. */
export function apiGet<T>(path: string): Promise<T> {
  return request<T>(path);
}

/** Writes JSON to the API. @param signal ends the request, and the work on it, when its answer is wanted no more */
export function apiSend<T>(
  path: string,
  body?: unknown,
  method: "POST" | "PUT" = "POST",
  signal?: AbortSignal,
): Promise<T> {
  return request<T>(path, { ...withJson(body, method), ...(signal ? { signal } : {}) });
}

/** Sends JSON to the API, or only asks where there is none, and takes bytes. */
export async function apiBytes(path: string, body?: unknown): Promise<ArrayBuffer> {
  const response = await send(path, body === undefined ? undefined : withJson(body, "POST"));
  return response.ok ? response.arrayBuffer() : read(response);
}

/** Removes something over the API. */
export function apiDelete<T>(path: string): Promise<T> {
  return request<T>(path, { method: "DELETE" });
}

/** Sends a file as the raw body. */
export function apiUpload<T>(path: string, file: Blob): Promise<T> {
  return request<T>(path, { method: "POST", body: file, headers: { "content-type": "application/octet-stream" } });
}

/** Reads from the API with caching; the path is the key. */
export function useApi<T>(path: string | null, options?: Partial<UseQueryOptions<T, ApiError>>) {
  return useQuery<T, ApiError>({
    queryKey: ["api", path],
    queryFn: () => apiGet<T>(path as string),
    enabled: path !== null,
    ...options,
  });
}

/**
 * Asks the API about something that does not exist yet, such as a draft, with caching; the path and the question are the
 * key.
 * @param options.isLong ends the work on a question that is wanted no more; for what takes long even where all that it
 *   reads is at hand, since ended work also loses what it has read so far
 */
export function useAsk<T>(
  path: string,
  question: unknown,
  { isLong = false, ...options }: Partial<UseQueryOptions<T, ApiError>> & { isLong?: boolean } = {},
) {
  return useQuery<T, ApiError>({
    queryKey: ["api", path, "asked", question],
    // Reading the signal is what makes a question one that is ended.
    queryFn: (context) => apiSend<T>(path, question, "POST", isLong ? context.signal : undefined),
    ...options,
  });
}

/** How often a job is asked after while somebody waits for it, ms. */
const ASK_EVERY = 250;

/**
 * Waits until a job has ended. @param path of the job
 * @returns false where somebody cancelled it
 * @throws ApiError where it failed
 */
export async function jobEnded(path: string): Promise<boolean> {
  for (;;) {
    const { state, error } = await apiGet<JobView>(path);
    if (error) throw new ApiError(error, 422);
    if (state === "done" || state === "cancelled") return state === "done";
    await new Promise((resolve) => setTimeout(resolve, ASK_EVERY));
  }
}

/** Shows what went wrong as a toast with its hint. */
export function toastError(error: unknown): void {
  if (error instanceof ApiError)
    toast.error(error.failure.message, { description: error.failure.hint, duration: 10_000 });
  else toast.error("Something unforeseen went wrong.", { description: String(error) });
}

/** Says why something could not be kept; where somebody changed it meanwhile, with the way to keep one's own all the same. */
export function toastMeanwhile(error: unknown, keepMine: () => void): void {
  if (!(error instanceof ApiError) || error.failure.code !== "changed-meanwhile") return toastError(error);
  toast.error(error.failure.message, {
    description: error.failure.hint,
    duration: 60_000,
    action: { label: "Keep mine", onClick: keepMine },
  });
}

import { createReadStream } from "node:fs";
import { Readable } from "node:stream";

/** Asks the API. @throws where the answer is a refusal, with what it says */
export async function ask<T>(url: string, init: RequestInit = {}): Promise<T> {
  const answer = await fetch(url, init);
  if (!answer.ok) throw new Error(`${url}: ${answer.status} ${await answer.text()}`);
  return (await answer.json()) as T;
}

export function send<T>(url: string, body?: unknown): Promise<T> {
  const json = { headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
  return ask(url, { method: "POST", ...(body !== undefined && json) });
}

/** Uploads a feed. @returns the job that reads it in */
export async function upload(base: string, file: string): Promise<string> {
  const body = Readable.toWeb(createReadStream(file));
  const init = { method: "POST", headers: { "content-type": "text/csv" }, body, duplex: "half" };
  return (await ask<{ job: string }>(`${base}/bench/feeds/main/refresh`, init as unknown as RequestInit)).job;
}

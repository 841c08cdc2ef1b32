import type { z } from "zod";
import type { AccountRecord } from "@/core/account/records";
import {
  aboutSchema,
  answersSchema,
  placePageSchema,
  recordPageSchema,
  stoodSchema,
  type Answer,
  type Change,
  type Channel,
  type ChannelAbout,
  type PlacePage,
  type RecordPage,
  type ReportKind,
} from "@/core/dispatch/contract";
import { giveUp } from "@/core/kit/outcome";
import { fetchSafely, PassingFailure, type Fetched } from "../outside/fetch-safely";

/** The most of an answer that is read, bytes. */
const MOST_BYTES = 64 * 1024 * 1024;

/** A channel that somebody else's program is, spoken to over HTTP as `docs/channel.md` has it. */
export class HttpChannel implements Channel {
  private readonly base: string;

  constructor(
    address: string,
    private readonly token: string,
  ) {
    this.base = address.replace(/\/+$/, "");
  }

  async about(): Promise<ChannelAbout> {
    return this.ask("about", aboutSchema);
  }

  async take(key: string, changes: Change[]): Promise<Answer[] | null> {
    const { answers } = await this.ask("changes", answersSchema, { key, changes });
    return answers === null ? null : sameKeys(changes, answers);
  }

  async answersTo(key: string): Promise<Answer[] | null | undefined> {
    const answer = await this.fetch(`changes/${encodeURIComponent(key)}`, null);
    if (answer.status === 404) {
      answer.body.resume();
      return undefined;
    }
    return (await this.read(answer, answersSchema)).answers;
  }

  async look(keys: string[]): Promise<Map<string, AccountRecord | null>> {
    const { stands } = await this.ask("look", stoodSchema, { keys });
    const found = new Map(stands.map(({ key, record }) => [key, record]));
    return new Map(keys.map((key) => [key, found.get(key) ?? null]));
  }

  async records(after: string | null): Promise<RecordPage> {
    return this.ask(`records${afterQuery(after)}`, recordPageSchema);
  }

  async places(after: string | null): Promise<PlacePage> {
    return this.ask(`places${afterQuery(after)}`, placePageSchema);
  }

  async *report(kind: ReportKind, from: string, to: string): AsyncIterable<Uint8Array> {
    const answer = await this.fetch(`reports/${kind}?from=${from}&to=${to}`, null);
    if (answer.status !== 200) await this.refuse(answer);
    yield* answer.body as AsyncIterable<Uint8Array>;
  }

  private async ask<T>(path: string, schema: z.ZodType<T>, body: object | null = null): Promise<T> {
    return this.read(await this.fetch(path, body), schema);
  }

  private fetch(path: string, body: object | null): Promise<Fetched> {
    const headers = { authorization: `Bearer ${this.token}`, accept: "application/json" };
    if (body === null) return fetchSafely(`${this.base}/${path}`, headers);
    const text = JSON.stringify(body);
    const length = String(Buffer.byteLength(text));
    return fetchSafely(
      `${this.base}/${path}`,
      { ...headers, "content-type": "application/json", "content-length": length },
      text,
    );
  }

  private async read<T>(answer: Fetched, schema: z.ZodType<T>): Promise<T> {
    if (answer.status !== 200 && answer.status !== 202) return this.refuse(answer);
    const text = await textOf(answer);
    let given: unknown;
    try {
      given = JSON.parse(text);
    } catch {
      return giveUp("channel-answer", "The channel answered with something that is no JSON.", "See docs/channel.md.");
    }
    const parsed = schema.safeParse(given);
    if (parsed.success) return parsed.data;
    const [issue] = parsed.error.issues;
    const where = issue!.path.join(".");
    return giveUp(
      "channel-answer",
      `The channel's answer is not as the contract has it: ${where === "" ? "" : `${where}: `}${issue!.message}.`,
      "See docs/channel.md.",
    );
  }

  private async refuse(answer: Fetched): Promise<never> {
    const { status } = answer;
    const text = await textOf(answer).catch(() => "");
    if (status === 401 || status === 403)
      giveUp("channel-token", "The channel does not know the token.", "Enter it anew under Dispatch, Channel.");
    const said = messageIn(text);
    const message = `The channel answered with ${status}${said === "" ? "" : `: ${said}`}.`;
    const hint = "It is tried again; else ask whoever runs the channel.";
    if (status === 429 || status >= 500) throw new PassingFailure({ code: "channel-busy", message, hint });
    return giveUp("channel-refused", message, "Ask whoever runs the channel.");
  }
}

const afterQuery = (after: string | null) => (after === null ? "" : `?after=${encodeURIComponent(after)}`);

/** One answer for each change, in whatever order they come. */
function sameKeys(changes: Change[], answers: Answer[]): Answer[] {
  const byKey = new Map(answers.map((answer) => [answer.key, answer]));
  return changes.map(
    ({ key }) =>
      byKey.get(key) ??
      giveUp("channel-answer", `The channel did not answer for the record "${key}".`, "See docs/channel.md."),
  );
}

function messageIn(text: string): string {
  try {
    const { error } = JSON.parse(text) as { error?: { message?: unknown } };
    return typeof error?.message === "string" ? error.message.slice(0, 300) : "";
  } catch {
    return "";
  }
}

async function textOf({ body }: Fetched): Promise<string> {
  const parts: Buffer[] = [];
  let bytes = 0;
  try {
    for await (const part of body) {
      parts.push(part as Buffer);
      bytes += (part as Buffer).length;
      if (bytes > MOST_BYTES) {
        body.destroy();
        giveUp("channel-answer", "The channel's answer is larger than 64 MB.", "See docs/channel.md.");
      }
    }
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ECONNRESET" || (error as Error).message === "aborted") {
      const message = "The channel broke off in the middle of its answer.";
      throw new PassingFailure({ code: "channel-broke-off", message, hint: "It is tried again." });
    }
    throw error;
  }
  return Buffer.concat(parts).toString("utf8");
}

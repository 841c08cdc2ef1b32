import { createHmac, randomBytes, randomUUID } from "node:crypto";
import { and, asc, desc, eq, lte, min } from "drizzle-orm";
import { z } from "zod";
import { fail, FailureError, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { alertAddress, alertMessages } from "@/db/schema";
import { enqueueJob, isResting } from "../jobs/jobs";
import type { JobHandler } from "../jobs/work";
import { fetchSafely } from "../outside/fetch-safely";
import { seal, unseal } from "../secrets";
import { noteChange, type WorkspaceInfo } from "../workspaces";

/** What messages tell of. */
export type MessageKind = "alert.speaks" | "week.told" | "test";

/** A message is tried so often, each time after twice as long as the time before, beginning with five minutes. */
const MOST_TRIES = 8;
const FIRST_PAUSE = 5 * 60_000;
const SECRET_BYTES = 32;

type Writer = Pick<Database, "select" | "insert">;

/** Queues a message where there is an address that wants its kind. */
export async function queueMessage(
  db: Writer,
  { slug, name }: WorkspaceInfo,
  kind: MessageKind,
  now: number,
  data: object,
): Promise<void> {
  const [to] = await db.select().from(alertAddress);
  if (!to || (kind === "alert.speaks" && !to.sendsAlerts) || (kind === "week.told" && !to.sendsWeeks)) return;
  const body = { type: kind, timestamp: new Date(now).toISOString(), data: { workspace: slug, shop: name, ...data } };
  await db.insert(alertMessages).values({
    ...{ id: randomUUID(), at: now, what: kind, body: JSON.stringify(body) },
    ...{ state: "waiting" as const, nextAt: now },
  });
}

/**
 * The signature of a message as Standard Webhooks has it: HMAC-SHA256 over ID, seconds and body, so that nothing of it can be
 * changed or sent again later.
 * @param secret `whsec_` and the key in base64
 */
export function signatureOf(secret: string, id: string, seconds: number, body: string): string {
  const key = Buffer.from(secret.replace(/^whsec_/, ""), "base64");
  return `v1,${createHmac("sha256", key).update(`${id}.${seconds}.${body}`).digest("base64")}`;
}

/** Where messages are sent, and the last ones. The secret stays with the server. */
export interface AddressView {
  url: string;
  sendsAlerts: boolean;
  sendsWeeks: boolean;
  messages: {
    id: string;
    at: number;
    what: string;
    state: "waiting" | "sent" | "failed";
    tries: number;
    note: string;
  }[];
}

const MOST_LISTED = 20;

/** Where alerts and weeks are sent; null address where nowhere. */
export async function viewAddress(db: Database): Promise<AddressView> {
  const [to] = await db.select().from(alertAddress);
  const messages = await db
    .select({
      ...{ id: alertMessages.id, at: alertMessages.at, what: alertMessages.what },
      ...{ state: alertMessages.state, tries: alertMessages.tries, note: alertMessages.note },
    })
    .from(alertMessages)
    .orderBy(desc(alertMessages.at))
    .limit(MOST_LISTED);
  return {
    ...{ url: to?.url ?? "", sendsAlerts: to?.sendsAlerts ?? true, sendsWeeks: to?.sendsWeeks ?? true },
    messages,
  };
}

export const addressSchema = z.object({
  /** Empty sends nowhere. */
  url: z.union([z.literal(""), z.url({ protocol: /^https?$/ }).max(500)]),
  sendsAlerts: z.boolean(),
  sendsWeeks: z.boolean(),
  /** Draws a new secret; a first address gets one anyway. */
  newSecret: z.boolean().default(false),
});

/** Sets where alerts and weeks are sent. @returns a new secret where one was drawn, which is told this once only */
export async function setAddress(
  db: Database,
  { url, sendsAlerts, sendsWeeks, newSecret }: z.output<typeof addressSchema>,
): Promise<Outcome<AddressView & { secret: string | null }>> {
  const [known] = await db.select().from(alertAddress);
  if (url === "") {
    await db.delete(alertAddress);
    await db.delete(alertMessages).where(eq(alertMessages.state, "waiting"));
    if (known) await noteChange(db, "Alerts and weeks are sent nowhere any more", "", "alerts");
    return ok({ ...(await viewAddress(db)), secret: null });
  }
  const secret = !known || newSecret ? `whsec_${randomBytes(SECRET_BYTES).toString("base64")}` : null;
  const row = { id: 1, url, sendsAlerts, sendsWeeks, secret: secret ? seal(secret) : known!.secret };
  await db.insert(alertAddress).values(row).onConflictDoUpdate({ target: alertAddress.id, set: row });
  await noteChange(db, `Alerts and weeks are sent to ${new URL(url).host}`, "", "alerts");
  return ok({ ...(await viewAddress(db)), secret });
}

/** Sends a message that says nothing, to see whether it arrives. */
export async function sendTest(db: Database, info: WorkspaceInfo): Promise<Outcome<AddressView>> {
  const [to] = await db.select().from(alertAddress);
  if (!to) return fail("alerts-no-address", "There is no address to send to.", "Set one first.");
  const now = Date.now();
  await queueMessage(db, info, "test", now, {});
  await sendDue(db, now, "test");
  return ok(await viewAddress(db));
}

/**
 * Sends what is due. A message that does not arrive waits for its next try.
 * @param only messages of this kind alone, where somebody waits for the answer
 * @returns how many arrived
 */
export async function sendDue(db: Database, now = Date.now(), only?: MessageKind): Promise<number> {
  const [to] = await db.select().from(alertAddress);
  if (!to) return 0;
  const due = await db
    .select()
    .from(alertMessages)
    .where(
      and(eq(alertMessages.state, "waiting"), lte(alertMessages.nextAt, now), only && eq(alertMessages.what, only)),
    )
    .orderBy(asc(alertMessages.at));
  let arrived = 0;
  for (const { id, body, tries } of due) {
    const note = await tryToSend(to.url, unseal(to.secret), id, body);
    const isLast = tries + 1 >= MOST_TRIES;
    if (note === "") arrived++;
    await db
      .update(alertMessages)
      .set({
        ...{ tries: tries + 1, note, nextAt: now + FIRST_PAUSE * 2 ** tries },
        state: note === "" ? "sent" : isLast ? "failed" : "waiting",
      })
      .where(eq(alertMessages.id, id));
  }
  return arrived;
}

/** @returns what went wrong, empty where the message arrived */
async function tryToSend(url: string, secret: string, id: string, body: string): Promise<string> {
  const seconds = Math.floor(Date.now() / 1000);
  try {
    const answer = await fetchSafely(
      url,
      {
        "content-type": "application/json",
        "webhook-id": id,
        "webhook-timestamp": String(seconds),
        "webhook-signature": signatureOf(secret, id, seconds, body),
      },
      body,
    );
    answer.body.destroy();
    return answer.status >= 200 && answer.status < 300 ? "" : `It answered with ${answer.status}.`;
  } catch (error) {
    if (error instanceof FailureError) return error.failure.message;
    throw error;
  }
}

/** Messages that failed wait for their next try, so there is nothing to take back. */
export const alertMessagesJob: JobHandler = {
  run: async ({ db }) => ({ arrived: await sendDue(db) }),
  rollBack: async () => {},
};

/** Queues the sending of messages that are due. */
export async function queueDueMessages(db: Database): Promise<void> {
  const [next] = await db
    .select({ at: min(alertMessages.nextAt) })
    .from(alertMessages)
    .where(eq(alertMessages.state, "waiting"));
  if (next?.at == null || next.at > Date.now()) return;
  if (!(await isResting(db, "alert-messages"))) await enqueueJob(db, "alert-messages", {});
}

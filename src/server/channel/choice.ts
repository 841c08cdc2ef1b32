import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import type { ChannelAbout } from "@/core/dispatch/contract";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { channelPlaces, channelState } from "@/db/schema";
import { seal } from "../secrets";
import { noteChange } from "../workspaces";
import { HttpChannel } from "./http-channel";

export const CHANNEL_KINDS = ["market", "files", "http"] as const;
export type ChannelKind = (typeof CHANNEL_KINDS)[number];

/** Where a workspace sends to. The token stays with the server. */
export interface ChannelChoice {
  kind: ChannelKind;
  address: string;
  hasToken: boolean;
  about: ChannelAbout | null;
  toldAt: number | null;
  toldOn: string;
}

/** The channel that a workspace sends to: its own test market where nobody chose. */
export async function channelChoice(db: Database): Promise<ChannelChoice> {
  const [row] = await db.select().from(channelState);
  const { kind = "market", address = "", token = null, about = null, toldAt = null, toldOn = "" } = row ?? {};
  return { kind, address, hasToken: token !== null, about, toldAt, toldOn };
}

export const chooseChannelSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("market") }),
  z.object({ kind: z.literal("files") }),
  z.object({ kind: z.literal("http"), address: z.url().max(500), token: z.string().min(1).max(2000) }),
]);

/** Sets where a workspace sends to from now on. One over HTTP is asked first who it is. */
export async function chooseChannel(
  db: Database,
  chosen: z.output<typeof chooseChannelSchema>,
): Promise<Outcome<ChannelChoice>> {
  const { rows } = await db.$client.execute(
    `SELECT kind FROM jobs WHERE kind IN ('dispatch', 'market-run', 'channel-places', 'channel-read', 'channel-reports')
     AND state IN ('waiting', 'running') ORDER BY kind = 'dispatch' DESC LIMIT 1`,
  );
  if (rows.length > 0) {
    // What it is told at this moment would be taken for what the new one tells.
    if (rows[0]!["kind"] !== "dispatch") {
      return fail(
        "channel-busy",
        "The channel of now is being asked or run at this moment.",
        "Choose once that has ended.",
      );
    }
    return fail(
      "channel-busy",
      "A dispatch is on its way or set for later.",
      "Wait for it, or call it off, then choose.",
    );
  }
  const isHttp = chosen.kind === "http";
  const about = isHttp ? await new HttpChannel(chosen.address, chosen.token).about() : null;
  const values = {
    ...{ kind: chosen.kind, about, toldOn: "", toldAt: null, reportsOn: "" },
    ...{ address: isHttp ? chosen.address : "", token: isHttp ? seal(chosen.token) : null },
  };
  await db.transaction(async (tx) => {
    await tx
      .insert(channelState)
      .values({ id: 1, ...values })
      .onConflictDoUpdate({ target: channelState.id, set: { ...values, placesVersion: sql`places_version + 1` } });
    // What another channel told of prices does not hold for this one.
    await tx.delete(channelPlaces).where(eq(channelPlaces.origin, "channel"));
  });
  const name = { market: "the test market", files: "files", http: about?.name ?? "" }[chosen.kind];
  await noteChange(db, `Channel chosen: ${name}`, "", "dispatch");
  return ok(await channelChoice(db));
}

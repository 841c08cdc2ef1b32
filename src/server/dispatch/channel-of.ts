import { FilesChannel } from "../channel/files-channel";
import { HttpChannel } from "../channel/http-channel";
import type { ChannelKind } from "../channel/choice";
import { MarketChannel } from "../market/market-channel";
import type { Channel } from "@/core/dispatch/contract";
import type { Database } from "@/db/client";
import { channelState } from "@/db/schema";
import { unseal } from "../secrets";
import type { WorkspaceInfo } from "../workspaces";

/** The channel of a workspace, to be spoken to. */
export async function channelOf(db: Database, info: WorkspaceInfo): Promise<{ kind: ChannelKind; channel: Channel }> {
  const [row] = await db.select().from(channelState);
  switch (row?.kind) {
    case "http":
      return { kind: "http", channel: new HttpChannel(row.address, unseal(row.token ?? "")) };
    case "files":
      return { kind: "files", channel: new FilesChannel(db, {}) };
    default:
      return { kind: "market", channel: new MarketChannel(db, info) };
  }
}

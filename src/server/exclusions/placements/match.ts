import { z } from "zod";
import { looksLikeAddress, readAddress } from "@/core/exclusions/placements/address";
import type { Database } from "@/db/client";
import type { WorkspaceInfo } from "../../workspaces";
import { loadMedia } from "./media";

export const matchSchema = z.object({ lines: z.array(z.string().max(2_000)).min(1).max(100_000) });

/** Pasted lines by what they are; each address once. */
export interface MatchedAddresses {
  /** Where ads were shown, with impressions. */
  known: { address: string; impressions: number }[];
  /** Addresses where none was shown in the window. */
  unknown: string[];
  /** What is no address, as it was written. */
  junk: string[];
  /** Lines that say again what another says. */
  twice: number;
}

/** Tells pasted lines apart: placements that ads were shown on, other addresses, and what is none. */
export async function matchAddresses(
  db: Database,
  info: Pick<WorkspaceInfo, "goal">,
  lines: readonly string[],
): Promise<MatchedAddresses> {
  const media = await loadMedia(db, info);
  const shown = new Map(media?.placements.map(({ address, sums }) => [address, sums.impressions]));
  const found: MatchedAddresses = { known: [], unknown: [], junk: [], twice: 0 };
  const seen = new Set<string>();
  for (const line of lines) {
    if (line.trim() === "") continue;
    const address = readAddress(line)?.address ?? null;
    const isKnown = address !== null && shown.has(address);
    const key = isKnown || (address !== null && looksLikeAddress(address)) ? address : null;
    const named = key ?? line.trim();
    if (seen.has(named)) {
      found.twice++;
      continue;
    }
    seen.add(named);
    if (key === null) found.junk.push(named);
    else if (isKnown) found.known.push({ address: key, impressions: shown.get(key)! });
    else found.unknown.push(key);
  }
  return found;
}

import type { Place } from "@/core/channel/place";
import type { Channel } from "@/core/dispatch/contract";
import { dayAt, formatDay } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { channelChoice } from "../channel/choice";
import { keepTold } from "../channel/places";
import { marketStandsOn } from "../market/told";
import { enqueueJob, isResting } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import type { WorkspaceInfo } from "../workspaces";
import { channelOf } from "./channel-of";

/** What a channel's places stand on: of the test market the catalogue, of others the day, since they tell anew every day. */
async function standsOn(db: Database, info: WorkspaceInfo): Promise<string | null> {
  const { kind, about } = await channelChoice(db);
  if (kind === "files") return null;
  if (kind === "http") return about?.tellsPlaces ? formatDay(dayAt(Date.now(), info.timeZone)) : null;
  const { revision, length } = await loadCatalogue(db, []);
  return length === 0 ? null : marketStandsOn(info, revision);
}

async function* allPlaces(channel: Channel): AsyncGenerator<Place> {
  for (let after: string | null = null; ;) {
    const { places, next } = await channel.places(after);
    yield* places;
    if (next === null) return;
    after = next;
  }
}

async function run({ db, info, progress }: JobContext) {
  const toldOn = await standsOn(db, info);
  if (toldOn === null) return { places: 0 };
  const { channel } = await channelOf(db, info);
  const step = (done: number) => progress(done, null, "places");
  return { places: await keepTold(db, allPlaces(channel), info.timeZone, toldOn, step) };
}

/** Asks the channel what it tells of places. What it told before counts until all is there, so nothing needs rolling back. */
export const channelPlacesJob: JobHandler = { run, rollBack: async () => {} };

/** Queues asking where what was told stands on something else by now. */
export async function queueDuePlaces(db: Database, info: WorkspaceInfo): Promise<void> {
  const toldOn = await standsOn(db, info);
  if (toldOn === null || (await channelChoice(db)).toldOn === toldOn) return;
  if (await isResting(db, "channel-places")) return;
  await enqueueJob(db, "channel-places", {});
}

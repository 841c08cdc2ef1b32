import { cellText, type Columns } from "@/core/kit/columns";
import type { Place } from "@/core/channel/place";
import { toldItem, toldPlaces } from "@/core/market/told-places";
import type { World } from "@/core/market/world-types";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { channelChoice } from "../channel/choice";
import { keepTold } from "../channel/places";
import type { WorkspaceInfo } from "../workspaces";

/** All that the test market tells of places: queries and pages, then the catalogue's items. */
export function* toldByMarket(world: World, { columns, length }: Columns): Generator<Place> {
  yield* toldPlaces(world);
  const ids = columns["id"];
  if (!ids) return;
  for (let row = 0; row < length; row++) yield toldItem(world, row, cellText(ids, row));
}

/** What the market's places stand on: its world, which is made around a catalogue. */
export function marketStandsOn(info: WorkspaceInfo, revision: number): string {
  return `${info.marketSeed} ${revision}`;
}

/** Has the market tell of its places where it did not since the catalogue changed, as it gives its reports. */
export async function tellIfNew(db: Database, info: WorkspaceInfo, world: World): Promise<void> {
  const catalogue = await loadCatalogue(db, ["id"]);
  const toldOn = marketStandsOn(info, catalogue.revision);
  if ((await channelChoice(db)).toldOn === toldOn) return;
  await keepTold(db, toldByMarket(world, catalogue), info.timeZone, toldOn, async () => {});
}

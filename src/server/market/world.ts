import { buildWorld } from "@/core/market/world";
import type { World } from "@/core/market/world-types";
import type { Account } from "@/core/account/account";
import type { Columns } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { accountColumns } from "../account/serving";
import { firstDays } from "../catalogue/first-days";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";

/** The columns of the catalogue that the market's world is built from. */
const WORLD_COLUMNS = ["id", "title", "brand", "category", "family", "price", "salePrice", "availability"];

/** The world around the catalogue in force, and the columns it and an account are read with. */
export async function loadWorld(
  db: Database,
  info: WorkspaceInfo,
  account: Account,
): Promise<{ world: World; catalogue: Columns } | null> {
  const catalogue = await loadCatalogue(db, WORLD_COLUMNS);
  if (catalogue.length === 0) return null;
  // Building takes a second at 100,000 items and depends on the catalogue and the seed alone.
  const stamp = [catalogue.revision, info.marketSeed];
  const world = await remember(db, "world", stamp, () => makeWorld(db, info, catalogue));
  return { world, catalogue: await accountColumns(db, account) };
}

async function makeWorld(db: Database, info: WorkspaceInfo, catalogue: Columns): Promise<World> {
  const itemNo = catalogue.columns["itemNo"];
  const since = await firstDays(db, info.timeZone, itemNo?.kind === "number" ? itemNo.values : new Float64Array(0));
  return buildWorld(catalogue, info.marketSeed, since, info.marketNature);
}

import packageJson from "../../../package.json";
import { ok } from "@/core/kit/outcome";
import { isRunnerAtWork } from "../jobs/lock";
import { freeBytes } from "../disk";
import { createWorkspace, listWorkspaces, lookAtWorkspaces, newWorkspaceSchema } from "../workspaces";
import { global, type BoundEndpoint } from "./endpoint";
import { assetEndpoints } from "./stages/assets";
import { copyEndpoints } from "./stages/copy";
import { catalogueEndpoints } from "./stages/catalogue";
import { channelEndpoints } from "./stages/channel";
import { feedEndpoints } from "./stages/feeds";
import { itemEndpoints } from "./stages/items";
import { shelfEndpoints } from "./stages/shelves";
import { exclusionEndpoints } from "./stages/exclusions";
import { experimentEndpoints } from "./stages/experiments";
import { stocktakeEndpoints } from "./stages/stocktake";
import { loadGuides } from "../guide/guides";
import { alertEndpoints } from "./stages/alerts";
import { exportEndpoints } from "./stages/exports";
import { bidsEndpoints } from "./stages/bids";
import { movesEndpoints } from "./stages/moves";
import { planogramEndpoints } from "./stages/planogram";
import { reportEndpoints } from "./stages/reports";
import { runEndpoints } from "./stages/run";
import { signInEndpoints } from "./stages/sign-in";
import { targetEndpoints } from "./stages/targets";

/** Below this much room on the disk a feed of 100,000 items may not fit. */
const LEAST_FREE_MB = 500;

const globalEndpoints: BoundEndpoint[] = [
  global({ method: "GET", role: "anyone", path: "health", summary: "Whether the server answers." }, async () =>
    ok({ status: "ok", version: packageJson.version }),
  ),
  global(
    {
      method: "GET",
      role: "anyone",
      path: "ready",
      summary: "Whether all can work: workspaces, the runner, room on the disk.",
    },
    async ({ asker }) => {
      const { broken: found } = await lookAtWorkspaces();
      // Whoever only watches whether all is well is not told the names.
      const broken = asker ? found : found.map(({ code }) => ({ code }));
      const freeMb = Math.floor((await freeBytes()) / (1024 * 1024));
      const runner = await isRunnerAtWork();
      return ok({ ready: broken.length === 0 && runner && freeMb > LEAST_FREE_MB, runner, freeMb, broken });
    },
  ),
  global(
    { method: "GET", role: "member", path: "guide", summary: "The guide: jobs from start to end, step by step." },
    async () => ok(await loadGuides()),
  ),
  global({ method: "GET", role: "member", path: "workspaces", summary: "Workspaces." }, async ({ asker }) => {
    const all = await listWorkspaces();
    const roles = await Promise.all(all.map(({ slug }) => asker?.roleIn(slug)));
    return ok(all.filter((_, i) => roles[i]));
  }),
  global(
    {
      method: "POST",
      role: "founder",
      path: "workspaces",
      summary: "Make an empty workspace.",
      body: newWorkspaceSchema,
      status: 201,
    },
    async ({ body }) => createWorkspace(body),
  ),
];

/** Every operation of the API, in the order of the stages. */
export const ENDPOINTS: BoundEndpoint[] = [
  ...globalEndpoints,
  ...signInEndpoints,
  ...feedEndpoints,
  ...catalogueEndpoints,
  ...channelEndpoints,
  ...itemEndpoints,
  ...shelfEndpoints,
  ...planogramEndpoints,
  ...assetEndpoints,
  ...copyEndpoints,
  ...exportEndpoints,
  ...targetEndpoints,
  ...bidsEndpoints,
  ...movesEndpoints,
  ...exclusionEndpoints,
  ...experimentEndpoints,
  ...stocktakeEndpoints,
  ...alertEndpoints,
  ...reportEndpoints,
  ...runEndpoints,
];

import packageJson from "../../../package.json";
import { ok } from "@/core/kit/outcome";
import { createWorkspace, listWorkspaces, newWorkspaceSchema } from "../workspaces";
import { global, type BoundEndpoint } from "./endpoint";
import { catalogueEndpoints } from "./stages/catalogue";
import { itemEndpoints } from "./stages/items";
import { shelfEndpoints } from "./stages/shelves";
import { planogramEndpoints } from "./stages/planogram";
import { reportEndpoints } from "./stages/reports";
import { runEndpoints } from "./stages/run";

const globalEndpoints: BoundEndpoint[] = [
  global({ method: "GET", path: "health", summary: "Whether the server answers." }, async () =>
    ok({ status: "ok", version: packageJson.version }),
  ),
  global({ method: "GET", path: "workspaces", summary: "Workspaces." }, async () => ok(await listWorkspaces())),
  global(
    { method: "POST", path: "workspaces", summary: "Make an empty workspace.", body: newWorkspaceSchema, status: 201 },
    async ({ body }) => createWorkspace(body),
  ),
];

/** Every operation of the API, in the order of the stages. */
export const ENDPOINTS: BoundEndpoint[] = [
  ...globalEndpoints,
  ...catalogueEndpoints,
  ...itemEndpoints,
  ...shelfEndpoints,
  ...planogramEndpoints,
  ...reportEndpoints,
  ...runEndpoints,
];

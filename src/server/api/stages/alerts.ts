import { z } from "zod";
import { ok } from "@/core/kit/outcome";
import { enqueueJob } from "../../jobs/jobs";
import { alertSchema, asideSchema, putAside, setAlert, viewAlerts } from "../../alerts/look";
import { addressSchema, sendTest, setAddress, viewAddress } from "../../alerts/messages";
import { listWeeks, viewWeek, weekFile } from "../../alerts/week";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";

const idOf = (path: Record<string, string>) => pathNumber(path, "week");

/** Operations of alerts, and of weeks told. */
export const alertEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "alerts" } as const),
      summary: "What is watched, with its limit, and how it stood when it was looked at last.",
    },
    async ({ db }) => ok(await viewAlerts(db)),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "alerts", body: alertSchema, heavy: true } as const),
      summary: "Set one alert: whether it is watched, and its limit. It is looked at again at once.",
    },
    async ({ db, info, body }) => setAlert(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "alerts/look", status: 202 } as const),
      summary: "Look at all alerts now, as a job; and tell the last week where nobody did.",
    },
    async ({ db }) => ok({ job: (await enqueueJob(db, "alerts", {})).id }),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "alerts/{kind}/aside", body: asideSchema } as const),
      summary: "Put an alert that speaks up aside until it is quiet again; no reason takes it up.",
    },
    async ({ db, who, path, body }) => putAside(db, who, path["kind"]!, body),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "owner", path: "alert-address" } as const),
      summary: "Where alerts and weeks are sent, and the last messages. The secret is not told.",
    },
    async ({ db }) => ok(await viewAddress(db)),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "owner", path: "alert-address", body: addressSchema } as const),
      summary: "Set where alerts and weeks are sent. A new secret is told this once.",
    },
    async ({ db, body }) => setAddress(db, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "owner", path: "alert-address/test", heavy: true } as const),
      summary: "Send a message to that address, to see whether it arrives.",
    },
    async ({ db, info }) => sendTest(db, info),
  ),
  inWorkspace(
    { ...({ method: "GET", role: "viewer", path: "weeks" } as const), summary: "Weeks told, the last first." },
    async ({ db }) => ok(await listWeeks(db)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "weeks/{week}" } as const),
      summary: "How a week went: figures beside the week before, alerts, what is wrong, and the moves with most money.",
    },
    async ({ db, path }) => viewWeek(db, idOf(path)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "weeks/{week}/file" } as const),
      summary: "A week as one HTML file that opens without a network, or as JSON.",
      query: z.object({ format: z.enum(["html", "json"]).default("html") }),
    },
    async ({ db, info, path, query }) => {
      const made = await weekFile(db, info, idOf(path), query.format);
      return made.ok ? made.value : made;
    },
  ),
];

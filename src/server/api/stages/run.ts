import {
  basketRemoveSchema,
  listDispatches,
  removeFromBasket,
  startDispatch,
  takeBackDispatch,
  viewBasket,
  viewDispatch,
} from "../../dispatch/basket";
import { cancelJob, findJob, listJobs } from "../../jobs/jobs";
import { changeWorkspace, workspaceSettingsSchema } from "../../workspaces";
import { fail, ok } from "@/core/kit/outcome";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { marketRunSchema, startMarketRun } from "../../market/run-days";
import { resultsSchema, seriesSchema, setUpSteps, tillStrip, viewResults, viewSeries } from "../../results/results";
import { days, page, jobAnswer } from "./shared";

/** Operations of dispatch, results, the market and jobs. */
export const runEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      path: "basket",
      summary: "What waits to be sent, in words and numbers, with checks.",
      query: page,
    },
    async ({ db, info, query }) => ok(await viewBasket(db, info, query.offset, query.limit)),
  ),
  inWorkspace(
    { method: "POST", path: "basket/remove", summary: "Take changes out of the basket.", body: basketRemoveSchema },
    async ({ db, body }) => ok({ removed: await removeFromBasket(db, body) }),
  ),
  inWorkspace({ method: "GET", path: "dispatches", summary: "Dispatches, newest first." }, async ({ db }) =>
    ok(await listDispatches(db)),
  ),
  inWorkspace(
    { method: "POST", path: "dispatches", summary: "Send the basket, as a job.", status: 202 },
    async ({ db }) => jobAnswer(await startDispatch(db)),
  ),
  inWorkspace(
    { method: "GET", path: "dispatches/{id}", summary: "A dispatch with its changes." },
    async ({ db, info, path }) => viewDispatch(db, info, Number(path["id"])),
  ),
  inWorkspace(
    { method: "POST", path: "dispatches/{id}/take-back", summary: "Take a dispatch back, as a job.", status: 202 },
    async ({ db, path }) => jobAnswer(await takeBackDispatch(db, Number(path["id"]))),
  ),
  inWorkspace(
    { method: "GET", path: "results", summary: "Results by campaign, ad group or shelf.", query: resultsSchema },
    async ({ db, query }) => ok(await viewResults(db, query)),
  ),
  inWorkspace(
    { method: "GET", path: "results/series", summary: "Results day by day.", query: seriesSchema },
    async ({ db, query }) => ok(await viewSeries(db, query)),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "market/run",
      summary: "Run the test market for some days, as a job.",
      body: marketRunSchema,
      status: 202,
    },
    async ({ db, info, body }) => jobAnswer(await startMarketRun(db, info, body)),
  ),
  inWorkspace(
    { method: "GET", path: "till", summary: "The figures of the till strip.", query: days },
    async ({ db, info, query }) => ok(await tillStrip(db, info, query.days)),
  ),
  inWorkspace(
    { method: "GET", path: "set-up", summary: "What is still missing on the way round the loop." },
    async ({ db }) => ok(await setUpSteps(db)),
  ),
  inWorkspace({ method: "GET", path: "jobs", summary: "Jobs under way and the last that ended." }, async ({ db }) =>
    ok(await listJobs(db)),
  ),
  inWorkspace({ method: "GET", path: "jobs/{id}", summary: "A job." }, async ({ db, path }) => {
    const job = await findJob(db, path["id"]!);
    return job ? ok(job) : fail("job-unknown", "There is no such job.");
  }),
  inWorkspace({ method: "POST", path: "jobs/{id}/cancel", summary: "Ask a job to stop." }, async ({ db, path }) => {
    const job = await cancelJob(db, path["id"]!);
    return job ? ok(job) : fail("job-unknown", "There is no such job.");
  }),
  inWorkspace(
    { method: "PUT", path: "settings", summary: "Change the goal or a house rule.", body: workspaceSettingsSchema },
    async ({ db, body }) => {
      await changeWorkspace(db, body);
      return ok({});
    },
  ),
];

import { csv, xlsx } from "../../files/answers";
import { approvalOf, approveBasket } from "../../account/approval";
import { basketFilterSchema, viewBasket } from "../../dispatch/basket";
import { basketRemoveSchema, putBack, removeFromBasket } from "../../dispatch/take-out";
import {
  listDispatches,
  scheduledDispatch,
  startDispatch,
  takeBackChanges,
  takeBackChangesSchema,
  takeBackDispatch,
  viewDispatch,
} from "../../dispatch/dispatches";
import { stampSchema } from "../../account/edits";
import { cancelJob, findJob, listJobs } from "../../jobs/jobs";
import { startFinish } from "../../catalogue/finish";
import { sinceSchema } from "../../meanwhile";
import { isSignInOn } from "../../settings";
import { mustHold } from "../../sign-in/kept-out";
import { changeWorkspace, workspaceSettingsSchema } from "../../workspaces";
import { fail, ok } from "@/core/kit/outcome";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { compareSchema, startComparison } from "../../market/compare";
import { viewMarket } from "../../market/look";
import { marketRunSchema, startMarketRun } from "../../market/run-days";
import { METRIC_KEYS } from "@/core/kit/metrics";
import { z } from "zod";
import { asksOfToday } from "../../across/asks";
import { forgottenItems } from "../../across/catalogue/standings";
import { setUpSteps, tillStrip } from "../../across/results/till";
import { sliceSchema } from "../../across/results/slice-query";
import { exportSlice, viewSlice } from "../../across/results/slice";
import { days, page, jobAnswer } from "./shared";

/** Results as a file: the metrics to write, in their order. */
const exportQuery = sliceSchema.extend({
  metrics: z
    .string()
    .default("cost,revenue,roas,acos,orders,clicks,impressions")
    .transform((text) => METRIC_KEYS.filter((key) => text.split(",").includes(key))),
});

/** Operations of dispatch, results, the market and jobs. */
export const runEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "basket",
      heavy: true,
      summary: "What waits to be sent, in words and numbers, with checks.",
      query: page.extend(basketFilterSchema.shape),
    },
    async ({ db, info, query: { offset, limit, ...filter } }) => ok(await viewBasket(db, info, offset, limit, filter)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "basket/remove",
      heavy: true,
      summary: "Take changes out of the basket; answers by what they can be put back.",
      query: z.object({ version: stampSchema }),
      body: basketRemoveSchema,
    },
    async ({ db, info, who, query, body }) => removeFromBasket(db, info, who, body, query.version ?? null),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "basket/put-back/{undo}",
      heavy: true,
      summary: "Put back what was taken out of the basket, as it was.",
    },
    async ({ db, who, path }) => putBack(db, who, path["undo"]!),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "basket/approval",
      summary: "Whether the basket is approved, where it has to be.",
    },
    async ({ db }) => ok(await approvalOf(db)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "sender",
      path: "basket/approve",
      summary: "Approve the basket at the version that was looked at; any change of it voids that.",
      query: z.object({ version: z.coerce.number().int().min(0) }),
    },
    async ({ db, who, query }) => approveBasket(db, who, query.version, isSignInOn()),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "dispatches", heavy: true, summary: "Dispatches, newest first." },
    async ({ db }) => ok(await listDispatches(db)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "sender",
      isGrave: true,
      path: "dispatches",
      heavy: true,
      summary: "Send the basket, as a job. With the version that was looked at, only if nothing changed since.",
      query: z.object({ version: stampSchema, at: z.coerce.number().int().optional() }),
      status: 202,
    },
    async ({ db, who, query }) => jobAnswer(await startDispatch(db, who, query.version ?? null, query.at ?? null)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "dispatches/scheduled",
      summary: "The dispatch that is set for later, or null.",
    },
    async ({ db }) => ok({ scheduled: await scheduledDispatch(db) }),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "dispatches/{id}/take-back-changes",
      heavy: true,
      summary: "Put the inverse of some changes of a dispatch into the basket.",
      body: takeBackChangesSchema,
    },
    async ({ db, who, path, body }) => takeBackChanges(db, who, pathNumber(path, "id"), body),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "dispatches/{id}", heavy: true, summary: "A dispatch with its changes." },
    async ({ db, info, path }) => viewDispatch(db, info, pathNumber(path, "id")),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "sender",
      isGrave: true,
      path: "dispatches/{id}/take-back",
      heavy: true,
      summary: "Take a dispatch back, as a job.",
      status: 202,
    },
    async ({ db, path }) => jobAnswer(await takeBackDispatch(db, pathNumber(path, "id"))),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "results",
      heavy: true,
      summary: "Results of a window by a level, divided by a split, beside another window.",
      query: sliceSchema,
    },
    async ({ db, info, query }) => viewSlice(db, info, query),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "results.csv",
      heavy: true,
      summary: "The same lines, all of them, as a CSV file.",
      query: exportQuery,
    },
    async ({ db, info, query }) => {
      const outcome = await exportSlice(db, info, query, query.metrics);
      return outcome.ok ? csv("results.csv", outcome.value.headings, outcome.value.rows) : outcome;
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "results.xlsx",
      heavy: true,
      summary: "The same lines as an XLSX workbook.",
      query: exportQuery,
    },
    async ({ db, info, query }) => {
      const outcome = await exportSlice(db, info, query, query.metrics);
      return outcome.ok ? xlsx("results.xlsx", outcome.value.headings, outcome.value.rows) : outcome;
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "sender",
      path: "market/run",
      summary: "Run the test market for some days, as a job.",
      body: marketRunSchema,
      status: 202,
    },
    async ({ db, info, body }) => jobAnswer(await startMarketRun(db, info, body)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "market",
      summary: "How far the test market has run.",
    },
    async ({ db, info }) => ok(await viewMarket(db, info)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "market/compare",
      summary: "Run the account as it is and with the basket on the same days and seed, as a job; nothing is kept.",
      body: compareSchema,
      status: 202,
    },
    async ({ db, info, body }) => jobAnswer(await startComparison(db, info, body)),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "till", summary: "The figures of the till strip.", query: days },
    async ({ db, info, query }) => ok(await tillStrip(db, info, query.days)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "forgotten",
      heavy: true,
      summary: "Items that nothing serves and nobody left out, by why.",
    },
    async ({ db }) => ok(await forgottenItems(db)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "asks",
      heavy: true,
      summary:
        "What asks for a decision today: pauses and exclusions that are due, campaigns that run dry, costly faults.",
    },
    async ({ db, info }) => ok(await asksOfToday(db, info)),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "set-up", summary: "What is still missing on the way round the loop." },
    async ({ db }) => ok(await setUpSteps(db)),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "jobs", summary: "Jobs under way and the last that ended." },
    async ({ db }) => ok(await listJobs(db)),
  ),
  inWorkspace({ method: "GET", role: "viewer", path: "jobs/{id}", summary: "A job." }, async ({ db, path }) => {
    const job = await findJob(db, path["id"]!);
    return job ? ok(job) : fail("job-unknown", "There is no such job.");
  }),
  inWorkspace(
    { method: "POST", role: "editor", path: "jobs/{id}/cancel", summary: "Ask a job to stop." },
    async ({ db, path }) => {
      const job = await cancelJob(db, path["id"]!);
      return job ? ok(job) : fail("job-unknown", "There is no such job.");
    },
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "sender",
      path: "settings",
      summary: "Change the goal or a house rule.",
      query: sinceSchema,
      body: workspaceSettingsSchema,
    },
    async ({ db, info, asker, query, body }) => {
      // Who may send must not be the one who does away with being looked over.
      if (body.approval !== undefined) await mustHold(asker, info.slug, "owner");
      const changed = await changeWorkspace(db, body, query.since);
      if (!changed.ok) return changed;
      const { goal: _, mostLoss: __, approval: ___, ...tax } = body;
      // Margins hang on what is tax.
      return ok({ job: Object.keys(tax).length > 0 ? await startFinish(db) : null });
    },
  ),
];

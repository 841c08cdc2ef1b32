import { z } from "zod";
import { copyPlanSchema } from "@/core/copy/copy-plan";
import { LANGUAGES } from "@/core/copy/languages";
import { ok } from "@/core/kit/outcome";
import { copyLookSchema, lookAtCopy } from "../../copy/look";
import {
  findCopyPlan,
  freshCopyPlan,
  listCopyPlans,
  removeCopyPlan,
  saveCopyPlan,
  unknownPlan,
} from "../../copy/plans";
import {
  copyGroups,
  copyGroupsSchema,
  copyProofSchema,
  letPass,
  letPassSchema,
  proveCopy,
  warningsFile,
} from "../../copy/proof";
import { enqueueJob } from "../../jobs/jobs";
import { sinceSchema } from "../../meanwhile";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { adsSchema, listAds } from "../../copy/ads";
import { resultDays } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { days, jobAnswer } from "./shared";

/** Operations of the copy stage. */
export const copyEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "copy-plans",
      summary: "Copy plans: which items get which text ads and keywords.",
    },
    async ({ db }) => ok(await listCopyPlans(db)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "copy-plans/fresh" } as const),
      summary: "A copy plan to begin with, made for the catalogue as it is; nothing is kept.",
      query: z.object({ language: z.enum(LANGUAGES).default("en") }),
    },
    async ({ db, info, query }) => freshCopyPlan(db, info, query.language),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "copy-plans", status: 201 } as const),
      summary: "Keep a copy plan.",
      query: sinceSchema,
      body: copyPlanSchema,
    },
    async ({ db, query, body }) => {
      const saved = await saveCopyPlan(db, body, query.since);
      return saved.ok ? ok({ key: body.key }) : saved;
    },
  ),
  inWorkspace(
    {
      ...({ method: "DELETE", role: "editor", path: "copy-plans/{plan}" } as const),
      summary:
        "Remove a copy plan; what it made in the account stays. Answers with the plan, so that it can be kept again.",
    },
    async ({ db, path }) => removeCopyPlan(db, path["plan"]!),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "copy-plans/look", heavy: true } as const),
      summary: "How the ads of a plan read on some ad groups, before it is kept.",
      body: copyLookSchema,
    },
    async ({ db, info, body }) => lookAtCopy(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "copy-plans/proof", heavy: true } as const),
      summary:
        "A plan written for all its ad groups, in numbers: ads, lines by rung, what is held back and why, keywords.",
      body: copyProofSchema,
    },
    async ({ db, info, body }) => proveCopy(db, info, body.plan),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "copy-plans/groups", heavy: true } as const),
      summary: "The ad groups behind a number of the proof.",
      body: copyGroupsSchema,
    },
    async ({ db, info, body }) => copyGroups(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "copy-plans/warnings", heavy: true } as const),
      summary: "All warnings of a plan as CSV or XLSX, before anything exists.",
      query: z.object({ format: z.enum(["csv", "xlsx"]).default("csv") }),
      body: copyProofSchema,
    },
    async ({ db, info, body, query }) => {
      const file = await warningsFile(db, info, body.plan, query.format);
      return file.ok ? file.value : file;
    },
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "text-ads", heavy: true } as const),
      summary:
        "Text ads of the account, basket included: lines, results of their ad groups, figures that changed since.",
      query: days.extend(adsSchema.shape),
    },
    async ({ db, info, query }) =>
      ok(await listAds(db, info, (await resultDays(db)) ? await windowOfDays(db, query.days) : null, query)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "copy-plans/{plan}/let-pass", heavy: true } as const),
      summary: "Let texts pass that the proof holds back, or take that back.",
      body: letPassSchema,
    },
    async ({ db, info, who, path, body }) => {
      const plan = await findCopyPlan(db, path["plan"]!);
      return plan ? letPass(db, info, who, plan, body) : unknownPlan(path["plan"]!);
    },
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "copy-plans/{plan}/apply", status: 202 } as const),
      summary: "Write a copy plan and put the difference to the account into the basket, as a job.",
    },
    async ({ db, path }) => {
      const plan = await findCopyPlan(db, path["plan"]!);
      return plan ? jobAnswer(ok(await enqueueJob(db, "copy-apply", { plan: plan.key }))) : unknownPlan(path["plan"]!);
    },
  ),
];

import { z } from "zod";
import { ok } from "@/core/kit/outcome";
import { stampSchema } from "../../account/edits";
import { learnedRules, learnFrom, learnSchema, listExperiments, viewExperiment } from "../../experiments/experiments";
import { planExperiment, planSchema } from "../../experiments/plan";
import { beginExperiment, endExperiment, endSchema, forgetExperiment } from "../../experiments/run";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";

const stamped = z.object({ version: stampSchema });

/** Operations of experiments. */
export const experimentEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "experiments", heavy: true } as const),
      summary: "Experiments, newest first, with what each has found by now.",
    },
    async ({ db, info }) => ok(await listExperiments(db, info)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "experiments/learned", heavy: true } as const),
      summary: "Rules that experiments left, with where they come from.",
    },
    async ({ db, info }) => ok(await learnedRules(db, info)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "experiments/{experiment}", heavy: true } as const),
      summary: "One experiment: effect day by day, verdict, what disturbed it and what else happened.",
    },
    async ({ db, info, path }) => viewExperiment(db, info, pathNumber(path, "experiment")),
  ),
  inWorkspace(
    {
      ...({
        method: "POST",
        role: "viewer",
        path: "experiments/plan",
        heavy: true,
        bodyMb: 8,
        body: planSchema,
      } as const),
      summary: "What an experiment would be: arms, what it can find in how many days, and what it changes.",
    },
    async ({ db, info, body }) => planExperiment(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "experiments", heavy: true, bodyMb: 8 } as const),
      summary: "Begin an experiment: its change for one arm goes into the basket.",
      query: stamped,
      body: planSchema,
    },
    async ({ db, info, who, query, body }) => beginExperiment(db, info, who, query.version ?? null, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "experiments/{experiment}/end", heavy: true } as const),
      summary: "End an experiment: take its change back, make it for all, or leave it.",
      query: stamped,
      body: endSchema,
    },
    async ({ db, info, who, path, query, body }) =>
      endExperiment(db, info, who, query.version ?? null, pathNumber(path, "experiment"), body),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "experiments/{experiment}/rule", body: learnSchema } as const),
      summary: "Make a house rule of what an experiment found, in words; empty takes it back.",
    },
    async ({ db, info, who, path, body }) => learnFrom(db, info, who, pathNumber(path, "experiment"), body),
  ),
  inWorkspace(
    {
      ...({ method: "DELETE", role: "editor", path: "experiments/{experiment}" } as const),
      summary: "Forget an experiment that never began.",
    },
    async ({ db, info, path }) => forgetExperiment(db, info, pathNumber(path, "experiment")),
  ),
];

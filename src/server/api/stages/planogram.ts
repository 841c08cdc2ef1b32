import { csv, json, xlsx, type FileAnswer } from "../../files/answers";
import { editSchema } from "@/core/account/acts";
import { editAccount, editDiffSchema, stampSchema, takeBackEdit } from "../../account/edits";
import { lookAtEdit } from "../../account/homes-between";
import { plannedAccount } from "../../account/state";
import { viewAccount, viewProductGroups } from "../../planogram/workbench";
import { groupItemsSchema, itemsOfGroup } from "../../planogram/group-items";
import { cellsOfFile, keepReadBack, previewReadBack, readBackSchema } from "../../dispatch/read-back";
import { enqueueJob } from "../../jobs/jobs";
import { fail, ok } from "@/core/kit/outcome";
import {
  findPlanogram,
  listPlanograms,
  plannedStructureOf,
  previewItems,
  previewPlanogram,
  savePlanogram,
  splitFields,
  splitValues,
} from "../../planogram/planograms";
import { comeIntoStep, outOfStep } from "../../planogram/in-step";
import { provePlanogram } from "../../planogram/prove";
import { putRecords, recordsSchema } from "../../account/put-records";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { planogramSchema } from "@/core/planogram/planogram";
import { resultDays } from "../../results/load";
import type { Account } from "@/core/account/account";
import { STRUCTURE_HEADINGS, structureRows } from "@/core/dispatch/export";
import { clickWorths } from "../../goals/click-worths";
import { windowOfDays } from "../../results/window";
import { z } from "zod";
import { sinceSchema } from "../../meanwhile";
import { days, page, jobAnswer } from "./shared";

/** The account's version that was looked at: records that changed since are not overwritten. */
const stamped = z.object({ version: stampSchema });

const fileSchema = z.object({ format: z.enum(["csv", "xlsx", "json"]).default("json") });

/** An account's structure as a file. */
function structureFile(account: Account, format: "csv" | "xlsx" | "json", name: string): FileAnswer {
  if (format === "xlsx") return xlsx(`${name}.xlsx`, STRUCTURE_HEADINGS, structureRows(account));
  if (format === "csv") return csv(`${name}.csv`, STRUCTURE_HEADINGS, structureRows(account));
  return json(`${name}.json`, [...account.records()]);
}

/** Operations of the planogram stage. */
export const planogramEndpoints: BoundEndpoint[] = [
  inWorkspace(
    { method: "GET", role: "viewer", path: "split-fields", heavy: true, summary: "What a ladder can split by." },
    async ({ db }) => ok(await splitFields(db)),
  ),
  inWorkspace({ method: "GET", role: "viewer", path: "planograms", summary: "Planograms." }, async ({ db }) =>
    ok(await listPlanograms(db)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "planograms",
      summary: "Keep a planogram.",
      query: sinceSchema,
      body: planogramSchema,
      status: 201,
    },
    async ({ db, query, body }) => {
      const saved = await savePlanogram(db, body, query.since);
      return saved.ok ? ok({ key: body.key }) : saved;
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "planograms/preview",
      heavy: true,
      summary: "What a planogram would make: counts, homes, leaks, warnings, campaigns.",
      body: planogramSchema,
    },
    async ({ db, body }) => previewPlanogram(db, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "planograms/preview/file",
      heavy: true,
      summary: "The structure that a planogram would make, as CSV, XLSX or JSON, before anything exists.",
      query: fileSchema,
      body: planogramSchema,
    },
    async ({ db, body, query }) => {
      const account = await plannedStructureOf(db, body);
      return account.ok ? structureFile(account.value, query.format, body.key) : account;
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "split-values",
      heavy: true,
      summary: "The values of a field that a ladder can split by, with items, spend and sales of 90 days.",
      query: z.object({ by: z.string().min(1).max(200) }),
    },
    async ({ db, query }) => ok(await splitValues(db, query.by)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "planograms/proof",
      heavy: true,
      summary: "The account as it would be with a planogram, walked: homes, leaks, whose items it takes, money in all.",
      body: planogramSchema,
    },
    async ({ db, body }) => provePlanogram(db, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "planograms/preview/items",
      heavy: true,
      summary: "The items of one planned campaign or ad group.",
      query: page.extend({ node: z.coerce.number().int().min(-1) }),
      body: planogramSchema,
    },
    async ({ db, body, query }) => previewItems(db, body, query.node, query.offset, query.limit),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "planograms/{planogram}/apply",
      summary: "Put the difference to the account into the basket, as a job.",
      status: 202,
    },
    async ({ db, path }) => {
      const found = await findPlanogram(db, path["planogram"]!);
      if (!found) return fail("planogram-unknown", `There is no planogram "${path["planogram"]}".`);
      return jobAnswer(ok(await enqueueJob(db, "planogram-apply", { planogram: found.key })));
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "planograms/out-of-step",
      heavy: true,
      summary: "Planograms kept in step that the account is out of step with, and what would bring it back.",
    },
    async ({ db, info }) => ok(await outOfStep(db, info)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "planograms/{planogram}/step",
      heavy: true,
      summary: "Put what brings the account back in step with a planogram into the basket.",
    },
    async ({ db, who, path }) => comeIntoStep(db, who, path["planogram"]!),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "account",
      heavy: true,
      summary: "Campaigns and ad groups, basket included, with results.",
      query: days,
    },
    async ({ db, info, query }) =>
      ok(await viewAccount(db, (await resultDays(db)) ? await windowOfDays(db, query.days) : null, info.goal)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "product-groups",
      heavy: true,
      summary: "Product groups of an ad group.",
      query: days.extend({ adGroup: z.string() }),
    },
    async ({ db, query }) =>
      ok(
        await viewProductGroups(db, query.adGroup, (await resultDays(db)) ? await windowOfDays(db, query.days) : null),
      ),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "group-items",
      heavy: true,
      summary: "Items of a campaign or group with what they did there, and who serves them without it.",
      query: days.extend(groupItemsSchema.shape),
    },
    async ({ db, query }) =>
      ok(await itemsOfGroup(db, query, (await resultDays(db)) ? await windowOfDays(db, query.days) : null)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "account/edits",
      heavy: true,
      bodyMb: 16,
      summary: "Change the account by hand; goes into the basket.",
      query: stamped,
      body: editSchema,
    },
    async ({ db, info, who, query, body }) =>
      editAccount(db, who, query.version ?? null, body, info.currency, clickWorths),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "account/edits/look",
      heavy: true,
      bodyMb: 16,
      summary:
        "What an edit would change, from what is set now, and what it would do to the homes of items, before it is made.",
      body: editSchema,
    },
    async ({ db, info, body }) => lookAtEdit(db, body, info.currency, clickWorths),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "account/records",
      heavy: true,
      summary: "Put records of any kind into the basket: campaigns, groups, keywords, targets, negatives, pools.",
      query: stamped,
      body: recordsSchema,
      bodyMb: 32,
    },
    async ({ db, info, who, query, body }) => putRecords(db, who, query.version ?? null, body, info.currency),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "account/edits/take-back",
      heavy: true,
      summary: "Take an unsent edit back.",
      body: editDiffSchema,
      bodyMb: 32,
    },
    async ({ db, who, body }) => takeBackEdit(db, who, body),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "structure",
      heavy: true,
      summary: "The account's structure, basket included, as CSV, XLSX or JSON.",
      query: fileSchema,
    },
    async ({ db, query }) => structureFile(await plannedAccount(db), query.format, "structure"),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "structure/read-back/cells",
      heavy: true,
      summary: "The cells of an edited structure file (XLSX, or any form of table) as text to be read back (raw body).",
      rawBody: true,
    },
    async ({ info, raw }) => ok(await cellsOfFile(info.slug, raw)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "structure/read-back/preview",
      heavy: true,
      summary: "What an edited structure file (CSV, or cells of a spreadsheet) would change, line by line.",
      body: readBackSchema,
      bodyMb: 64,
    },
    async ({ db, info, body }) => previewReadBack(db, info, body.text),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "structure/read-back",
      heavy: true,
      summary: "Put what an edited structure file changes into the basket.",
      body: readBackSchema,
      bodyMb: 64,
    },
    async ({ db, who, body }) => keepReadBack(db, who, body.text),
  ),
];

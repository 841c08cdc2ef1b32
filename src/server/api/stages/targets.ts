import { z } from "zod";
import { aimingSchema } from "@/core/targets/aims";
import { ok } from "@/core/kit/outcome";
import { stampSchema } from "../../account/edits";
import { lookAtShare, shareAskSchema, viewMoneyDesk } from "../../budgets/desk";
import { monthPlanSchema, setMonthPlan } from "../../budgets/month-plan";
import { viewBudgets } from "../../budgets/pools";
import { resultDays } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { keepAims, previewAims } from "../../targets/aim";
import { aimedTargets } from "../../targets/aimed-at";
import { knownListings } from "../../places/listings";
import {
  harvestSchema,
  importLedger,
  importSchema,
  keepHarvest,
  ledgerFilterSchema,
  lookAtHarvest,
  noteSchema,
  viewLedger,
} from "../../targets/ledger";
import { forgetNotes, keepNotes } from "../../places/ledger-notes";
import { viewDefence } from "../../targets/defence";
import { poolSchema, viewPool } from "../../targets/keyword-desk";
import { keepLaunch, launchSchema, lookAtLaunch } from "../../targets/launch";
import { tellPlaces } from "../../places/place-kinds";
import { itemsAsSuggested, suggestItems } from "../../targets/suggest-items";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { days } from "./shared";

/** Operations of the targets and budgets stages. */
export const targetEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "targets", heavy: true, query: days } as const),
      summary: "Keywords, listing targets and reaches with bids and results; why quiet ones are quiet.",
    },
    async ({ db, query }) =>
      ok(await aimedTargets(db, (await resultDays(db)) ? await windowOfDays(db, query.days) : null)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "targets/preview", heavy: true, body: aimingSchema } as const),
      summary: "What aiming at terms, listings or a category window would make: bids, where it is used already, items.",
    },
    async ({ db, info, body }) => previewAims(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "targets", heavy: true, body: aimingSchema } as const),
      summary: "Put targets into the basket, into a campaign that runs or a new one.",
      query: z.object({ version: stampSchema }),
    },
    async ({ db, info, who, query, body }) => keepAims(db, info, who, query.version ?? null, body),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "targets/items", heavy: true } as const),
      summary: "Items whose titles or categories fit a text best.",
      query: z.object({ q: z.string().min(1).max(300) }),
    },
    async ({ db, query }) => ok(await suggestItems(db, [query.q])),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "targets/items/told", heavy: true } as const),
      summary: "Items by their IDs with price and orders; IDs that no item has are left out.",
      body: z.object({ ids: z.array(z.string().max(500)).max(1_000) }),
    },
    async ({ db, body }) => ok(await itemsAsSuggested(db, body.ids)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "targets/kinds", heavy: true } as const),
      summary: "Whether texts are search terms or pages of listings; null where only who asks can know.",
      body: z.object({ values: z.array(z.string().max(2000)).min(1).max(10_000) }),
    },
    async ({ db, body }) => ok(await tellPlaces(db, body.values)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "launch/preview", heavy: true, body: launchSchema } as const),
      summary:
        "All that items need to be advertised by a purpose: campaigns, targets, bids, budgets and the worst day.",
    },
    async ({ db, info, body }) => lookAtLaunch(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "launch", heavy: true, body: launchSchema } as const),
      summary: "Put the campaigns of a launch into the basket.",
      query: z.object({ version: stampSchema }),
    },
    async ({ db, info, who, query, body }) => keepLaunch(db, info, who, query.version ?? null, body),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "keywords", heavy: true } as const),
      summary:
        "Candidates for keywords of a category: from the channel, results and titles, with prices, results and use.",
      query: poolSchema.pick({ category: true }),
    },
    async ({ db, info, query }) => viewPool(db, info, poolSchema.parse(query)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "keywords", heavy: true, body: poolSchema } as const),
      summary: "Candidates for keywords of some items; as GET keywords.",
    },
    async ({ db, info, body }) => viewPool(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "defence", heavy: true } as const),
      summary: "Our own pages and brand searches: views, how much of them we hold, what that costs, what defends them.",
    },
    async ({ db, info }) => viewDefence(db, info),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "ledger", heavy: true, query: ledgerFilterSchema } as const),
      summary:
        "Terms and listings ever considered: what they did, what should become of them, and what became of them.",
    },
    async ({ db, info, query }) => viewLedger(db, info, query),
  ),
  inWorkspace(
    {
      ...({
        method: "POST",
        role: "viewer",
        path: "ledger/harvest/preview",
        heavy: true,
        body: harvestSchema,
      } as const),
      summary: "What aiming at terms and listings by name would make, with bids and where they would be kept out.",
    },
    async ({ db, info, body }) => lookAtHarvest(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "ledger/harvest", heavy: true, body: harvestSchema } as const),
      summary: "Put keywords and listing targets for terms and listings that sold into the basket.",
      query: z.object({ version: stampSchema }),
    },
    async ({ db, info, who, query, body }) => keepHarvest(db, info, who, query.version ?? null, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "ledger/notes", body: noteSchema } as const),
      summary: "Note terms and listings as decided against, or as used elsewhere.",
    },
    async ({ db, who, body }) => ok({ kept: await keepNotes(db, who, body.places, body) }),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "ledger/notes/forget" } as const),
      summary: "Take notes of terms and listings away, so that they are judged again.",
      body: noteSchema.pick({ places: true }),
    },
    async ({ db, body }) => ok({ gone: await forgetNotes(db, body.places) }),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "ledger/import", heavy: true, body: importSchema } as const),
      summary: "Note a list of what is used elsewhere; what could be a term or a listing is named and left out.",
    },
    async ({ db, who, body }) => ok(await importLedger(db, who, body)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "listings", heavy: true } as const),
      summary: "Listings known from the channel, from reports and pasted, with our nearest item beside each.",
    },
    async ({ db }) => ok(await knownListings(db)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "budgets", heavy: true } as const),
      summary: "Budgets, pools and the day cap, what draws on them, and when each runs out.",
    },
    async ({ db }) => ok(await viewBudgets(db)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "budgets/returns", heavy: true } as const),
      summary: "What each campaign's money brings and the next of it would, and spend through the month.",
    },
    async ({ db, info }) => viewMoneyDesk(db, info),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "budgets/share", heavy: true } as const),
      summary: "What a total shared out over running campaigns would give to each; changes nothing.",
      body: shareAskSchema,
    },
    async ({ db, info, body }) => lookAtShare(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "budgets/month" } as const),
      summary: "Set what is planned to be spent in a month; null takes the plan away.",
      body: monthPlanSchema,
    },
    async ({ db, info, who, body }) => setMonthPlan(db, info, who, body),
  ),
];

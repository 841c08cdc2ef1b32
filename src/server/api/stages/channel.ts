import { z } from "zod";
import { ok } from "@/core/kit/outcome";
import { chooseChannel, chooseChannelSchema } from "../../channel/choice";
import { pastePlaces, pastePlacesSchema } from "../../channel/paste-places";
import { demandByCategory, demandInside, rateCards, rateCardSchema } from "../../targets/rate-cards";
import { basketNotCarried, dispatchFile, viewChannel } from "../../dispatch/channel-view";
import { readBackSchema, takeStands } from "../../dispatch/read-back";
import { readChannelSchema } from "../../dispatch/read-channel";
import { enqueueJob } from "../../jobs/jobs";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { page } from "./shared";

/** Operations on the channel that a workspace sends to, and on what is known of its places. */
export const channelEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "channel" } as const),
      summary: "The channel that the workspace sends to, and what it can carry.",
    },
    async ({ db }) => ok(await viewChannel(db)),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "sender", isGrave: true, path: "channel", body: chooseChannelSchema } as const),
      summary: "Choose the channel: the test market, files, or a program that speaks docs/channel.md at an address.",
    },
    async ({ db, body }) => chooseChannel(db, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "sender", path: "channel/read", body: readChannelSchema, status: 202 } as const),
      summary: "Read back what stands at the channel, as a job; with `adopt` it counts as what it has.",
    },
    async ({ db, body }) => ok({ job: (await enqueueJob(db, "channel-read", body)).id }),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "sender", path: "channel/stands", bodyMb: 64, body: readBackSchema } as const),
      ...({ heavy: true } as const),
      summary: "Take a structure file from where files are carried to as what stands there.",
    },
    async ({ db, info, body }) => takeStands(db, info, body.text),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "channel/demand", heavy: true } as const),
      summary: "What is known of demand and prices by category, and who told it when.",
    },
    async ({ db }) => ok(await demandByCategory(db)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "channel/demand/inside", heavy: true } as const),
      summary: "What is searched for in one category, and who stands there.",
      query: z.object({ category: z.string().max(500) }),
    },
    async ({ db, query }) => ok(await demandInside(db, query.category)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "channel/places", status: 202 } as const),
      summary: "Ask the channel anew what it tells of places, as a job.",
    },
    async ({ db }) => ok({ job: (await enqueueJob(db, "channel-places", {})).id }),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "listings", bodyMb: 24, body: pastePlacesSchema } as const),
      summary:
        "Take in pasted listings (listing, title, category, price, rating, reviews), or with headings listings, terms and items with what clicks cost there.",
    },
    async ({ db, info, who, body }) => pastePlaces(db, info, who, body),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "basket/not-carried", heavy: true, query: page } as const),
      summary: "What of the basket the channel can't carry, record by record.",
    },
    async ({ db, info, query: { offset, limit } }) => {
      const all = await basketNotCarried(db, info);
      const whole = all.filter(({ isWhole }) => isWhole).length;
      return ok({ total: all.length, whole, records: all.slice(offset, offset + limit) });
    },
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "dispatches/{id}/file", heavy: true } as const),
      summary: "The changes of a dispatch as a file to carry to the channel.",
    },
    async ({ db, path }) => dispatchFile(db, pathNumber(path, "id")),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "rate-card",
      heavy: true,
      summary:
        "Low, typical and high CPC and monthly volume of items, keywords, listings and groups; null where unknown.",
      body: rateCardSchema,
    },
    async ({ db, body }) => ok(await rateCards(db, body)),
  ),
];

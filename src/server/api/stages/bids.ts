import { z } from "zod";
import { toUnits } from "@/core/kit/money";
import { stampSchema } from "../../account/edits";
import { bidFilterSchema, lookAtBids, setBids, viewBids, whichBidsSchema, type BidRow } from "../../bids/desk";
import { viewPageWork } from "../../bids/page-work";
import { csv, xlsx } from "../../files/answers";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { page } from "./shared";

const EXPORT_LIMIT = 500_000;

const exportHeadings = [
  ...[
    "kind",
    "key",
    "name",
    "campaign",
    "bid",
    "CPC",
    "card low",
    "card typical",
    "card high",
    "clicks",
    "orders",
    "sales",
  ],
  ...[
    "sales a click",
    "goal",
    "goal from",
    "proposed",
    "held by",
    "none because",
    "spend a day",
    "sales a day",
    "contribution a day",
    "at least",
    "at most",
  ],
];

function exportRow(line: BidRow) {
  const {
    kind,
    key,
    name,
    campaignName,
    bid,
    clicks,
    cost,
    orders,
    revenue,
    card,
    worth,
    goal,
    proposed,
    none,
    expected,
  } = line;
  const money = (mills: number | null | undefined, digits = 2) =>
    mills == null ? null : Number(toUnits(mills).toFixed(digits));
  const left = expected?.contribution;
  return [
    ...[kind, key, name, campaignName, money(bid), clicks > 0 ? money(cost / clicks, 4) : null],
    ...[money(card?.low), money(card?.typical), money(card?.high), clicks, orders, money(revenue), money(worth, 4)],
    ...[
      goal ? Number(goal.goal.toFixed(3)) : null,
      goal?.from ?? null,
      money(proposed?.bid),
      proposed?.limitedBy ?? null,
      none,
    ],
    ...[money(expected?.cost), money(expected?.revenue), money(left?.mean), money(left?.low), money(left?.high)],
  ];
}

/** Operations of the bid desk. */
export const bidsEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "bids",
      heavy: true,
      summary: "Bids of items, product groups, keywords, listings or reach, with what a method would make of them.",
      query: page.extend(bidFilterSchema.shape),
    },
    async ({ db, info, query: { offset, limit, ...filter } }) => viewBids(db, info, filter, offset, limit),
  ),
  ...(["csv", "xlsx"] as const).map((form) =>
    inWorkspace(
      {
        method: "GET",
        role: "viewer",
        path: `bids.${form}`,
        heavy: true,
        summary: `The bids that are found, as ${form.toUpperCase()}.`,
        query: bidFilterSchema,
      },
      async ({ db, info, query }) => {
        const view = await viewBids(db, info, query, 0, EXPORT_LIMIT);
        if (!view.ok) return view;
        const rows = view.value.lines.map(exportRow);
        return form === "csv" ? csv("bids.csv", exportHeadings, rows) : xlsx("bids.xlsx", exportHeadings, rows);
      },
    ),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "bids/look",
      heavy: true,
      bodyMb: 8,
      summary: "What setting bids would change, before it is done.",
      body: whichBidsSchema,
    },
    async ({ db, info, body }) => lookAtBids(db, info, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "bids/set",
      heavy: true,
      bodyMb: 8,
      summary: "Put bids into the basket, each with its own amount, or all that are proposed.",
      query: z.object({ version: stampSchema }),
      body: whichBidsSchema,
    },
    async ({ db, info, who, query, body }) => setBids(db, info, who, query.version ?? null, body),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "page-work",
      heavy: true,
      summary: "Items that convert below their kind on good traffic, with what their pages lack.",
    },
    async ({ db, info }) => viewPageWork(db, info),
  ),
];

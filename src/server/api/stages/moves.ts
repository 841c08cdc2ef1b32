import { z } from "zod";
import { ok } from "@/core/kit/outcome";
import { toUnits } from "@/core/kit/money";
import { standingOrderSchema } from "@/core/moves/standing-order";
import { stampSchema } from "../../account/edits";
import { csv, xlsx } from "../../files/answers";
import { acceptMoves } from "../../moves/accept";
import { recordOfMoves } from "../../moves/follow-up";
import { listRules, ruleValueSchema, setRule } from "../../moves/house-rules";
import {
  decideMoves,
  decideSchema,
  lookAtMoves,
  movesFilterSchema,
  viewMoves,
  whichMovesSchema,
  type MoveLine,
} from "../../moves/moves";
import { listOrders, lookAtOrder, makeOrder, removeOrder, switchOrder } from "../../moves/standing-orders";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { page } from "./shared";

const EXPORT_LIMIT = 100_000;

const exportHeadings = [
  "key",
  "kind",
  "about",
  "campaign",
  "what",
  "why",
  "present",
  "proposed",
  "clicks",
  "orders",
  "spend a day",
  "sales a day",
  "contribution a day",
  "at least",
  "at most",
  "at stake a month",
];

function exportRow({ key, proposer, about, campaignName, what, why, amount, stands, expected, stake }: MoveLine) {
  const { contribution } = expected;
  const money = (mills: number | undefined) => (mills === undefined ? null : Number(toUnits(mills).toFixed(2)));
  return [
    ...[key, proposer, about, campaignName, what, why, money(amount?.from), money(amount?.to)],
    ...[stands.clicks, stands.orders, money(expected.cost), money(expected.revenue)],
    ...[money(contribution?.mean), money(contribution?.low), money(contribution?.high), money(stake)],
  ];
}

/** Operations of moves and house rules. */
export const movesEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "moves",
      heavy: true,
      summary: "What Hot Shelf proposes to do, the most money at stake first.",
      query: page.extend(movesFilterSchema.shape),
    },
    async ({ db, info, query: { offset, limit, ...filter } }) => viewMoves(db, info, filter, offset, limit),
  ),
  ...(["csv", "xlsx"] as const).map((form) =>
    inWorkspace(
      {
        method: "GET",
        role: "viewer",
        path: `moves.${form}`,
        heavy: true,
        summary: `The moves that are found, as ${form.toUpperCase()}.`,
        query: movesFilterSchema,
      },
      async ({ db, info, query }) => {
        const view = await viewMoves(db, info, query, 0, EXPORT_LIMIT);
        if (!view.ok) return view;
        const rows = view.value.lines.map(exportRow);
        return form === "csv" ? csv("moves.csv", exportHeadings, rows) : xlsx("moves.xlsx", exportHeadings, rows);
      },
    ),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "moves/look",
      heavy: true,
      bodyMb: 8,
      summary: "What accepting moves would change, before it is done.",
      body: whichMovesSchema,
    },
    async ({ db, info, body }) => lookAtMoves(db, info, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "moves/accept",
      heavy: true,
      bodyMb: 8,
      summary: "Put moves into the basket; what was worked out anew since it was seen is left and told.",
      query: z.object({ version: stampSchema }),
      body: whichMovesSchema,
    },
    async ({ db, info, who, query, body }) => acceptMoves(db, info, who, query.version ?? null, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "moves/decide",
      heavy: true,
      bodyMb: 8,
      summary: "Dismiss moves with a reason, put them off till a day, or open them again.",
      body: decideSchema,
    },
    async ({ db, info, who, body }) => decideMoves(db, info, who, body),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "moves/record",
      heavy: true,
      summary: "What accepted moves that were sent have brought, against what was expected of them.",
    },
    async ({ db, info }) => ok(await recordOfMoves(db, info)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "house-rules",
      summary: "The numbers that proposals go by, and who set them.",
    },
    async ({ db }) => ok(await listRules(db)),
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "editor",
      path: "house-rules/{rule}",
      summary: "Set one of the numbers that proposals go by; null goes back to its preset.",
      body: ruleValueSchema,
    },
    async ({ db, who, path, body }) => setRule(db, who, path["rule"]!, body.value),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "standing-orders",
      summary: "Moves that may go out by themselves, and what these did.",
    },
    async ({ db, info }) => ok(await listOrders(db, info)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "standing-orders/look",
      heavy: true,
      summary: "What a standing order would do now; nothing happens by it.",
      body: standingOrderSchema,
    },
    async ({ db, info, body }) => lookAtOrder(db, info, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "standing-orders",
      summary: "Make a standing order; it watches until it is switched on.",
      body: standingOrderSchema,
      status: 201,
    },
    async ({ db, info, who, body }) => makeOrder(db, info, who, body),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "sender",
      isGrave: true,
      path: "standing-orders/{order}/on",
      summary: "Switch a standing order on: its moves go out by themselves from now on.",
    },
    async ({ db, who, path }) => switchOrder(db, who, pathNumber(path, "order"), "on", ""),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "standing-orders/{order}/off",
      summary: "Stop a standing order, or let it only watch.",
      body: z.object({ state: z.enum(["watching", "stopped"]), why: z.string().trim().max(300).default("") }),
    },
    async ({ db, who, path, body }) => switchOrder(db, who, pathNumber(path, "order"), body.state, body.why),
  ),
  inWorkspace(
    {
      method: "DELETE",
      role: "editor",
      path: "standing-orders/{order}",
      summary: "Remove a standing order; what it sent stays.",
    },
    async ({ db, path }) => removeOrder(db, pathNumber(path, "order")),
  ),
];

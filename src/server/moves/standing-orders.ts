import { desc, eq, inArray, ne } from "drizzle-orm";
import { windowEnding } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { atStake, sumExpected } from "@/core/moves/move";
import {
  limitsInWords,
  stoppedBy,
  takeMoves,
  type LastDays,
  type StandingOrder,
  type Taken,
} from "@/core/moves/standing-order";
import { PROPOSER_KEYS } from "@/core/proposers/proposers";
import type { Database } from "@/db/client";
import { standingOrders, standingRuns } from "@/db/schema";
import { loadCube } from "../results/cubes";
import { resultDays } from "../results/load";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { openMoves } from "./moves";

/** Runs that are told of each. */
const TOLD_RUNS = 5;
/** Days that a guard looks back on. */
const GUARD_DAYS = 7;

type Row = typeof standingOrders.$inferSelect;
export type StandingRun = typeof standingRuns.$inferSelect;

export interface StandingLine extends Row {
  limits: string;
  runs: StandingRun[];
}

/** All standing orders with what they did last. */
export async function listOrders(db: Database, { currency }: WorkspaceInfo): Promise<StandingLine[]> {
  const rows = await db.select().from(standingOrders).orderBy(standingOrders.id);
  const runs = rows.length === 0 ? [] : await db.select().from(standingRuns).orderBy(desc(standingRuns.id)).limit(500);
  return rows.map((row) => ({
    ...row,
    limits: limitsInWords(row.definition, currency),
    runs: runs.filter(({ order }) => order === row.id).slice(0, TOLD_RUNS),
  }));
}

/** What a standing order would do now. Money in mills. */
export interface OrderLook {
  moves: number;
  /** The first of them in words. */
  words: string[];
  /** Expected a day, and at stake a month. */
  spend: number;
  contribution: { mean: number; low: number; high: number } | null;
  stake: number;
  left: Taken["left"];
  /** Why its guard would stop it now; null where it would not. */
  stops: string | null;
}

const MOST_WORDS = 8;

function unknownKind({ kinds }: StandingOrder): string | undefined {
  return kinds.find((kind) => !(PROPOSER_KEYS as string[]).includes(kind));
}

/** Says what a standing order would do if it were made now; nothing happens by it. */
export async function lookAtOrder(
  db: Database,
  info: WorkspaceInfo,
  order: StandingOrder,
): Promise<Outcome<OrderLook>> {
  const unknown = unknownKind(order);
  if (unknown) return fail("order-kind", `There is no kind of moves called “${unknown}”.`);
  const found = await openMoves(db, info);
  if (!found.ok) return found;
  const { moves, left } = takeMoves(order, found.value.moves, info.currency);
  const { cost, contribution } = sumExpected(moves.map(({ expected }) => expected));
  return ok({
    ...{ moves: moves.length, left, spend: cost, contribution },
    words: moves.slice(0, MOST_WORDS).map(({ about, what }) => `${about}: ${what}`),
    stake: moves.reduce((sum, move) => sum + atStake(move), 0),
    stops: stoppedBy(order, await lastDays(db), info.currency),
  });
}

/** Spend and sales a day over the last seven days of results; null where there are fewer. */
export async function lastDays(db: Database): Promise<LastDays | null> {
  const span = await resultDays(db);
  if (!span || span.to - span.from + 1 < GUARD_DAYS) return null;
  const { ads } = await loadCube(db, "item", windowEnding(span.to, GUARD_DAYS), false);
  const sum = (values: Float64Array) => values.reduce((all, value) => all + value, 0) / GUARD_DAYS;
  return { cost: sum(ads.sums.cost), sales: sum(ads.expected.revenue) };
}

/** Makes a standing order. It watches first: it says what it would do, and lets nothing go out. */
export async function makeOrder(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  definition: StandingOrder,
): Promise<Outcome<{ id: number }>> {
  const unknown = unknownKind(definition);
  if (unknown) return fail("order-kind", `There is no kind of moves called “${unknown}”.`);
  const taken = (await db.select().from(standingOrders)).some((row) => row.definition.name === definition.name);
  if (taken)
    return fail("order-name", `There is a standing order called “${definition.name}” already.`, "Name it otherwise.");
  const [row] = await db
    .insert(standingOrders)
    .values({ definition, state: "watching", who, at: Date.now() })
    .returning();
  await note(definition, `made, and watches: ${limitsInWords(definition, info.currency)}`);
  return ok({ id: row!.id });

  async function note({ name }: StandingOrder, what: string): Promise<void> {
    await noteChange(db, `Standing order “${name}” ${what}`, "", "moves", `standing-order/${row!.id}`);
  }
}

const STATE_WORDS = { on: "switched on: its moves go out by themselves", watching: "watches only", stopped: "stopped" };

/** Lets a standing order go out, watch only, or stop. */
export async function switchOrder(
  db: Database,
  who: string,
  id: number,
  state: Row["state"],
  why: string,
): Promise<Outcome<{ state: Row["state"] }>> {
  const [row] = await db.select().from(standingOrders).where(eq(standingOrders.id, id));
  if (!row) return fail("order-gone", "That standing order is gone.");
  // What it was switched on for begins with the next results, or now where it was not made on these yet.
  const lastDay = state === "on" && row.state !== "on" ? null : row.lastDay;
  await db.update(standingOrders).set({ state, why, who, at: Date.now(), lastDay }).where(eq(standingOrders.id, id));
  await noteChange(
    db,
    `Standing order “${row.definition.name}” ${STATE_WORDS[state]}`,
    why,
    "moves",
    `standing-order/${id}`,
  );
  return ok({ state });
}

/** Removes a standing order. What it sent stays sent. */
export async function removeOrder(db: Database, id: number): Promise<Outcome<object>> {
  const [row] = await db.delete(standingOrders).where(eq(standingOrders.id, id)).returning();
  if (!row) return fail("order-gone", "That standing order is gone.");
  await db.delete(standingRuns).where(eq(standingRuns.order, id));
  await noteChange(db, `Standing order “${row.definition.name}” removed`, "", "moves", `standing-order/${id}`);
  return ok({});
}

/** Whether any standing order is not stopped. */
export async function hasOrders(db: Database): Promise<boolean> {
  const [any] = await db
    .select({ id: standingOrders.id })
    .from(standingOrders)
    .where(ne(standingOrders.state, "stopped"))
    .limit(1);
  return any !== undefined;
}

/** Standing orders whose moves go out by themselves. */
export function ordersOn(db: Database): Promise<Row[]> {
  return db.select().from(standingOrders).where(eq(standingOrders.state, "on"));
}

/** Standing orders that are due on results up to a day: those that are not stopped, every so many days. */
export async function dueOrders(db: Database, day: number): Promise<Row[]> {
  const rows = await db.select().from(standingOrders).where(ne(standingOrders.state, "stopped"));
  return rows.filter(({ lastDay, definition }) => lastDay === null || day >= lastDay + definition.every);
}

/** Keeps what standing orders did on results up to a day. */
export async function keepRuns(db: Database, day: number, runs: (typeof standingRuns.$inferInsert)[]): Promise<void> {
  if (runs.length === 0) return;
  const ids = runs.map(({ order }) => order);
  await db.transaction(async (tx) => {
    await tx.insert(standingRuns).values(runs);
    await tx.update(standingOrders).set({ lastDay: day }).where(inArray(standingOrders.id, ids));
  });
}

/** How a run is told in the log. */
export const runInWords = (order: StandingOrder, moves: number, outcome: string) =>
  `Standing order “${order.name}”: ${plural(moves, "move")} ${outcome}`;

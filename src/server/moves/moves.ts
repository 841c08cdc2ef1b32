import { inArray, like } from "drizzle-orm";
import { z } from "zod";
import type { Edit } from "@/core/account/acts";
import { recordName } from "@/core/account/names";
import { dayAt, formatDay } from "@/core/kit/days";
import { daySchema } from "@/core/kit/day-schema";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { versionOf } from "@/core/kit/version-of";
import { adjusted, editOfMoves } from "@/core/moves/accept";
import { worthsOf } from "@/core/bids/worths";
import type { RuleKey } from "@/core/moves/house-rules";
import { atStake, type Move } from "@/core/moves/move";
import { byStake, PROPOSER_KEYS, PROPOSERS, proposeMoves, type ProposerKey } from "@/core/proposers/proposers";
import type { Database } from "@/db/client";
import { movesDecided } from "@/db/schema";
import { lookAtEdit, type EditLook } from "../account/homes-between";
import { readAccount, readVersions } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { placesVersion } from "../channel/places";
import { notesStamp } from "../places/ledger-notes";
import { shelfGoals } from "../goals/shelf-goals";
import { remember, type Stamp } from "../read/memo";
import { rememberReady } from "../read/ready";
import { resultsVersion } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { loadGround, type LoadedGround } from "./ground";
import { rulesInForce } from "./house-rules";

/** All moves of the planned account as it is now, the most at stake first, and what they were worked out on. */
export interface AllMoves extends LoadedGround {
  moves: Move[];
  /** The account's version that they are of. */
  version: number;
  /** Changes with all that they stand on. */
  stamp: string;
}

/** All that moves stand on: a version of the account with its basket, catalogue, results, places and house rules. */
async function standOn(db: Database, info: WorkspaceInfo, version: number) {
  const rules = await rulesInForce(db);
  const { revision } = await loadCatalogue(db, []);
  const declined = await declinedMoves(db, info);
  const stamp = [
    ...[version, revision, await resultsVersion(db), await placesVersion(db), info.goal],
    ...[JSON.stringify(rules), declined.join(), todayOf(info), (await shelfGoals(db)).stamp, await notesStamp(db)],
  ];
  return { rules, declined, stamp };
}

/**
 * Keeps what is shown of moves, or of what is made of them, as long as they stand on the same: to read it back takes a moment where
 * moves take seconds.
 * @param name what is shown @param asked what it was asked for
 */
export async function rememberShown<T>(
  db: Database,
  info: WorkspaceInfo,
  name: string,
  asked: Stamp,
  make: () => Promise<Outcome<T>>,
): Promise<Outcome<T>> {
  const { version } = await readVersions(db.$client);
  const { stamp } = await standOn(db, info, version);
  return rememberReady(db, name, [...stamp, ...asked], make, MOST_SHOWN);
}

/** Pages and filters kept beside each other. */
const MOST_SHOWN = 6;

/** Worked out once for what they stand on. */
export async function loadMoves(db: Database, info: WorkspaceInfo): Promise<Outcome<AllMoves>> {
  const account = await readAccount(db);
  const { version } = account;
  const { rules, declined, stamp } = await standOn(db, info, version);
  return remember(db, "moves", stamp, async () => {
    const loaded = await loadGround(db, info, account, rules);
    if (!loaded.ok) return loaded;
    return ok({
      ...loaded.value,
      ...{ version, stamp: versionOf(stamp) },
      moves: byStake(proposeMoves(loaded.value.ground, new Set(), new Set(declined))),
    });
  });
}

/** Pauses that a person put aside: other moves are not built on them. */
async function declinedMoves(db: Database, info: WorkspaceInfo): Promise<string[]> {
  const rows = await db.select().from(movesDecided).where(like(movesDecided.key, "overlap/%"));
  const today = todayOf(info);
  return rows.flatMap(({ key, how, until }) => (how === "dismissed" || today < until ? [key] : [])).sort();
}

export const todayOf = ({ timeZone }: WorkspaceInfo) => formatDay(dayAt(Date.now(), timeZone));

export const MOVES_SHOWN = ["open", "snoozed", "dismissed"] as const;

export const movesFilterSchema = z.object({
  q: z.string().max(200).default(""),
  kind: z.enum(PROPOSER_KEYS as [ProposerKey, ...ProposerKey[]]).optional(),
  show: z.enum(MOVES_SHOWN).default("open"),
});
export type MovesFilter = z.output<typeof movesFilterSchema>;

/** A move as a list shows it. Money in mills. */
export interface MoveLine extends Omit<Move, "acts" | "rows" | "touches"> {
  /** Changes with what would be done: a move that was worked out anew since has another one. */
  seal: string;
  /** A month. */
  stake: number;
  campaignName: string | null;
  /** Why and until when it is not open; null for one that is. */
  decided: { how: "dismissed" | "snoozed"; reason: string; until: string; who: string } | null;
}

export interface MovesView {
  lines: MoveLine[];
  /** All found, of which the lines are the first. */
  total: number;
  stake: number;
  /** Open moves by who proposes them, whatever is looked for. */
  kinds: { key: ProposerKey; name: string; moves: number; stake: number }[];
  /** How many open moves each house rule holds back. */
  heldBy: Partial<Record<RuleKey, number>>;
  /** How many are not open. */
  snoozed: number;
  dismissed: number;
  days: number;
  to: number;
  /** What a euro more would bring beyond itself; bids are divided by 1 + this. Null where nobody spends. */
  priceOfMoney: number | null;
  /** Mills a day that may be spent, and that full days cost. */
  money: number;
  full: number;
  version: number;
}

/** A dismissed move shows again when its clicks have grown by this, or what it proposes has moved by that. */
const GROWN = 1.5;
const MOVED = 0.25;

type Decided = typeof movesDecided.$inferSelect;

/** Whether a decision still holds for a move as it is now. */
function holds(decided: Decided, { stands, amount }: Move, today: string): boolean {
  if (decided.how === "snoozed") return today < decided.until;
  if (stands.clicks > decided.clicks * GROWN || stands.orders > decided.orders * GROWN + 1) return false;
  return !amount || !decided.amount || Math.abs(amount.to / decided.amount - 1) <= MOVED;
}

interface Sorted {
  all: AllMoves;
  decidedOf: (move: Move) => Decided | null;
}

async function sortOut(db: Database, info: WorkspaceInfo): Promise<Outcome<Sorted>> {
  const all = await loadMoves(db, info);
  if (!all.ok) return all;
  const rows = new Map((await db.select().from(movesDecided)).map((row) => [row.key, row]));
  const today = todayOf(info);
  const decidedOf = (move: Move) => {
    const row = rows.get(move.key);
    return row && holds(row, move, today) ? row : null;
  };
  return ok({ all: all.value, decidedOf });
}

function found({ all, decidedOf }: Sorted, { q, kind, show }: MovesFilter): Move[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  return all.moves.filter((move) => {
    if (kind && move.proposer !== kind) return false;
    if ((decidedOf(move)?.how ?? "open") !== show) return false;
    if (words.length === 0) return true;
    const text = `${move.about} ${move.what} ${move.why} ${move.key} ${campaignName(all, move) ?? ""}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

function campaignName({ ground: { account } }: AllMoves, { campaign }: Move): string | null {
  const record = account.find("campaign", campaign);
  return record ? recordName(account, record) : null;
}

export const sealOf = (move: Move) => versionOf(move.acts);

/** Moves that are found, a page of them, with sums over all. */
export async function viewMoves(
  db: Database,
  info: WorkspaceInfo,
  filter: MovesFilter,
  offset: number,
  limit: number,
): Promise<Outcome<MovesView>> {
  const asked = [await decisionsMade(db), JSON.stringify(filter), offset, limit];
  return rememberShown(db, info, "moves shown", asked, () => makeView(db, info, filter, offset, limit));
}

/** Changes whenever a move is put aside, or opened again. */
async function decisionsMade(db: Database): Promise<string> {
  const { rows } = await db.$client.execute(
    "SELECT count(*), max(at), total(at), total(clicks), total(orders) FROM moves_decided",
  );
  return Array.from(rows[0]!, String).join();
}

async function makeView(
  db: Database,
  info: WorkspaceInfo,
  filter: MovesFilter,
  offset: number,
  limit: number,
): Promise<Outcome<MovesView>> {
  const sorted = await sortOut(db, info);
  if (!sorted.ok) return sorted;
  const { all, decidedOf } = sorted.value;
  const moves = found(sorted.value, filter);
  const worths = worthsOf(all.ground);
  const count = (how: "snoozed" | "dismissed") => all.moves.filter((move) => decidedOf(move)?.how === how).length;
  const open = all.moves.filter((move) => decidedOf(move) === null);
  return ok({
    lines: moves.slice(offset, offset + limit).map((move) => lineOf(all, move, decidedOf(move))),
    total: moves.length,
    stake: moves.reduce((sum, move) => sum + atStake(move), 0),
    kinds: PROPOSER_KEYS.map((key) => {
      const own = open.filter(({ proposer }) => proposer === key);
      return {
        key,
        name: PROPOSERS[key].name,
        moves: own.length,
        stake: own.reduce((sum, move) => sum + atStake(move), 0),
      };
    }),
    heldBy: heldBy(open),
    ...{ snoozed: count("snoozed"), dismissed: count("dismissed"), days: all.ground.days, to: all.window.to },
    priceOfMoney: worths.full > 0 ? 1 / Math.min(1, worths.factor.next) - 1 : null,
    ...{ money: worths.money, full: worths.full, version: all.version },
  });
}

function heldBy(moves: readonly Move[]): MovesView["heldBy"] {
  const counts: MovesView["heldBy"] = {};
  for (const { limitedBy } of moves) {
    if (limitedBy !== null && limitedBy !== "channel") counts[limitedBy] = (counts[limitedBy] ?? 0) + 1;
  }
  return counts;
}

function lineOf(all: AllMoves, move: Move, decided: Decided | null): MoveLine {
  const { acts: _, rows: __, touches: ___, ...line } = move;
  return {
    ...line,
    ...{ seal: sealOf(move), stake: atStake(move), campaignName: campaignName(all, move) },
    decided: decided && { how: decided.how, reason: decided.reason, until: decided.until, who: decided.who },
  };
}

/** Moves that nobody put aside, the most at stake first, with what they were worked out on. */
export async function openMoves(db: Database, info: WorkspaceInfo): Promise<Outcome<{ all: AllMoves; moves: Move[] }>> {
  const sorted = await sortOut(db, info);
  if (!sorted.ok) return sorted;
  const { all, decidedOf } = sorted.value;
  return ok({ all, moves: all.moves.filter((move) => decidedOf(move) === null) });
}

/** Some moves by name, as they were seen; or all that a filter finds, with how many that were. */
export const whichMovesSchema = z.union([
  z.object({
    moves: z
      .array(
        z.object({
          key: z.string().min(1).max(700),
          seal: z.string().max(200),
          /** Another amount than the proposed one, mills. */
          amount: z.int().min(1).max(1_000_000_000).optional(),
        }),
      )
      .min(1, "No move is chosen.")
      .max(10_000),
  }),
  z.object({ filter: movesFilterSchema, total: z.int().min(1) }),
]);
export type WhichMoves = z.output<typeof whichMovesSchema>;

/** Moves that were asked for, as they are now, and those that were worked out anew or are gone since they were seen. */
export interface ChosenMoves {
  all: AllMoves;
  moves: Move[];
  changed: string[];
}

/** Finds the moves that a person means. What changed since it was seen is told apart, never taken for what was seen. */
export async function chooseMoves(db: Database, info: WorkspaceInfo, which: WhichMoves): Promise<Outcome<ChosenMoves>> {
  const sorted = await sortOut(db, info);
  if (!sorted.ok) return sorted;
  const { all } = sorted.value;
  if ("filter" in which) {
    const moves = found(sorted.value, which.filter);
    if (moves.length !== which.total) {
      return fail(
        "moves-changed",
        `There are ${moves.length} such moves now, ${which.total} were seen. Nothing was changed.`,
        "Look at them as they are now.",
      );
    }
    return ok({ all, moves, changed: [] });
  }
  const byKey = new Map(all.moves.map((move) => [move.key, move]));
  const moves: Move[] = [];
  const changed: string[] = [];
  for (const { key, seal, amount } of which.moves) {
    const move = byKey.get(key);
    if (!move || sealOf(move) !== seal) changed.push(key);
    else moves.push(amount === undefined ? move : adjusted(move, amount));
  }
  return ok({ all, moves, changed });
}

/** What accepting moves would change in the account, before it is done; and the sum of what is expected of them. */
export async function lookAtMoves(
  db: Database,
  info: WorkspaceInfo,
  which: WhichMoves,
): Promise<Outcome<EditLook & { changed: string[]; moves: number; stake: number; spend: number }>> {
  const chosen = await chooseMoves(db, info, which);
  if (!chosen.ok) return chosen;
  const { moves, changed } = chosen.value;
  const edit = editOfMoves(moves);
  if (!edit) return fail("moves-changed", ALL_CHANGED, "Look at them as they are now.");
  const look = await lookAtEdit(db, edit as Edit, info.currency);
  if (!look.ok) return look;
  const stake = moves.reduce((sum, move) => sum + atStake(move), 0);
  const spend = moves.reduce((sum, { expected }) => sum + expected.cost, 0);
  return ok({ ...look.value, changed, moves: moves.length, stake, spend });
}

export const ALL_CHANGED = "What was chosen has been worked out anew since it was seen. Nothing was changed.";

export const decideSchema = z.object({
  which: whichMovesSchema,
  how: z.enum(["dismissed", "snoozed", "open"]),
  reason: z.string().trim().max(300).default(""),
  until: daySchema.optional(),
});

/** Dismisses moves, puts them off till a day, or opens them again. */
export async function decideMoves(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  { which, how, reason, until }: z.output<typeof decideSchema>,
): Promise<Outcome<{ moves: number; changed: string[] }>> {
  if (how === "snoozed" && (!until || until <= todayOf(info))) {
    return fail("snooze-day", "Moves are put off till a day to come.", "Choose one after today.");
  }
  const chosen = await chooseMoves(db, info, which);
  if (!chosen.ok) return chosen;
  const { moves, changed } = chosen.value;
  const at = Date.now();
  await db.transaction(async (tx) => {
    for (let from = 0; from < moves.length; from += AT_ONCE) {
      const part = moves.slice(from, from + AT_ONCE);
      await tx.delete(movesDecided).where(
        inArray(
          movesDecided.key,
          part.map(({ key }) => key),
        ),
      );
      if (how === "open") continue;
      await tx.insert(movesDecided).values(
        part.map(({ key, stands, amount }) => ({
          ...{ key, how, reason, until: how === "snoozed" ? until! : "", who, at },
          ...{ clicks: stands.clicks, orders: stands.orders, amount: amount?.to ?? null },
        })),
      );
    }
  });
  return ok({ moves: moves.length, changed });
}

const AT_ONCE = 500;

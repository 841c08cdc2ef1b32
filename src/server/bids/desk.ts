import { z } from "zod";
import type { Edit } from "@/core/account/acts";
import { amountSchema } from "@/core/account/records/basics";
import { recordName } from "@/core/account/names";
import {
  BID_KINDS,
  BID_METHODS,
  bidLines,
  type BidKind,
  type BidLine,
  type BidMethod,
  type CardOf,
} from "@/core/bid-desk/bid-lines";
import { cardOver, type RateCard } from "@/core/channel/rate-card";
import { daySchema } from "@/core/kit/day-schema";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { sumExpected, type Expected } from "@/core/moves/move";
import { cardOfTarget } from "@/core/targets/target-card";
import type { Database } from "@/db/client";
import { editAccount, type Edited } from "../account/edits";
import { lookAtEdit, type EditLook } from "../account/homes-between";
import { everyItemPlace, placesVersion, rateBook } from "../channel/places";
import { loadMoves, rememberShown, todayOf, type AllMoves } from "../moves/moves";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";
import { keepPushes } from "../moves/pushes";

const kinds = Object.keys(BID_KINDS) as [BidKind, ...BidKind[]];
const methods = Object.keys(BID_METHODS) as [BidMethod, ...BidMethod[]];

/** What bids can be sorted by. */
export const BID_SORTS = ["name", "bid", "cpc", "clicks", "orders", "worth", "step", "cost", "left"] as const;
export type BidSort = (typeof BID_SORTS)[number];

export const bidFilterSchema = z.object({
  kind: z.enum(kinds).default("item"),
  method: z.enum(methods).default("contribution"),
  q: z.string().max(200).default(""),
  /** Only what another bid is proposed for, or all. */
  show: z.enum(["proposed", "all"]).default("proposed"),
  sort: z
    .string()
    .regex(new RegExp(`^-?(${BID_SORTS.join("|")})$`))
    .default("-left"),
});
export type BidFilter = z.output<typeof bidFilterSchema>;

/** A line as a table shows it. */
export type BidRow = Omit<BidLine, "worth"> & { worth: number | null; campaignName: string };

export interface BidsView {
  lines: BidRow[];
  total: number;
  /** Of all that are found: how many have a proposal, and what these are expected to change together a day. */
  proposed: number;
  expected: Expected;
  /** Lines of each kind, and of all of this one why none is proposed. */
  kinds: Record<BidKind, number>;
  none: Partial<Record<NonNullable<BidLine["none"]>, number>>;
  version: number;
}

/** Items of a group whose cards are looked at, spread evenly over it; more would not move the mean. */
const MOST_OF_GROUP = 50;

/** The rate cards of every line, as far as anybody told of them. */
async function cards(db: Database, { ground }: AllMoves): Promise<CardOf> {
  const book = await rateBook(db);
  const items = await everyItemPlace(db);
  const narrow = (card: RateCard | null) => card && { low: card.low, typical: card.typical, high: card.high };
  const groups = new Map(ground.homes.map((home) => [home.group.key, home.rows]));
  return (kind, key) => {
    if (kind === "item") return narrow(cardOver([items.get(key)].flatMap((place) => place ?? [])));
    if (kind === "group") {
      const rows = groups.get(key) ?? new Uint32Array();
      const step = Math.max(1, Math.ceil(rows.length / MOST_OF_GROUP));
      return narrow(
        cardOver([...rows].filter((_, i) => i % step === 0).flatMap((row) => items.get(ground.idOf(row)) ?? [])),
      );
    }
    const target = ground.account.get(key);
    const isTarget =
      target && (target.type === "keyword" || target.type === "reach" || target.type === "listingTarget");
    return isTarget ? narrow(cardOfTarget(book, target)) : null;
  };
}

/** Methods whose lines of one kind are kept beside each other. */
const KEPT = 4;

async function loadLines(db: Database, all: AllMoves, kind: BidKind, method: BidMethod): Promise<BidLine[]> {
  const stamp = [all.stamp, await placesVersion(db), kind, method];
  return remember(
    db,
    "bid lines",
    stamp,
    async () => bidLines(all.ground, { kind, method }, await cards(db, all)),
    KEPT,
  );
}

interface Found extends Pick<BidsView, "proposed" | "expected" | "none"> {
  all: AllMoves;
  lines: readonly BidLine[];
  found: readonly BidLine[];
}

async function findLines(db: Database, info: WorkspaceInfo, filter: BidFilter): Promise<Outcome<Found>> {
  const all = await loadMoves(db, info);
  if (!all.ok) return all;
  const { kind, method, q, show, sort } = filter;
  const stamp = [all.value.stamp, await placesVersion(db), kind, method, q, show, sort];
  // Every page of a list that is scrolled asks for the same.
  const found = await remember(
    db,
    "bids found",
    stamp,
    async () => {
      const lines = await loadLines(db, all.value, kind, method);
      const words = q.toLowerCase().split(/\s+/).filter(Boolean);
      const nameOf = campaignNames(all.value);
      const some = lines.filter((line) => {
        if (show === "proposed" && !line.proposed) return false;
        if (words.length === 0) return true;
        const text = `${line.name} ${line.key} ${nameOf(line.campaign)}`.toLowerCase();
        return words.every((word) => text.includes(word));
      });
      return { lines, found: sorted(some, sort), ...sumsOf(lines, some) };
    },
    KEPT,
  );
  return ok({ all: all.value, ...found });
}

/** Of what is found how much is proposed and expected; of all lines why nothing is. */
function sumsOf(
  lines: readonly BidLine[],
  found: readonly BidLine[],
): Pick<BidsView, "proposed" | "expected" | "none"> {
  const none: BidsView["none"] = {};
  for (const line of lines) if (line.none) none[line.none] = (none[line.none] ?? 0) + 1;
  return {
    proposed: found.filter(({ proposed }) => proposed !== null).length,
    expected: sumExpected(found.flatMap(({ expected }) => expected ?? [])),
    none,
  };
}

function campaignNames({ ground: { account } }: AllMoves): (key: string) => string {
  const names = new Map(account.all("campaign").map((campaign) => [campaign.key, recordName(account, campaign)]));
  return (key) => names.get(key) ?? key;
}

const SORTS: Record<Exclude<BidSort, "name">, (line: BidLine) => number> = {
  bid: ({ bid }) => bid,
  cpc: ({ clicks, cost }) => (clicks > 0 ? cost / clicks : NaN),
  clicks: ({ clicks }) => clicks,
  orders: ({ orders }) => orders,
  worth: ({ worth }) => worth,
  step: ({ bid, proposed }) => (proposed ? proposed.bid / bid : NaN),
  cost: ({ expected }) => expected?.cost ?? NaN,
  left: ({ expected }) => expected?.contribution?.mean ?? NaN,
};

/** Many times as fast as comparing texts one by one. */
const BY_NAME = new Intl.Collator("en");

/** What is not known stands last, whichever way round. */
function sorted(lines: BidLine[], sort: string): BidLine[] {
  const sign = sort.startsWith("-") ? -1 : 1;
  const by = sort.replace(/^-/, "") as BidSort;
  if (by === "name") return lines.sort((a, b) => sign * BY_NAME.compare(a.name, b.name));
  const value = new Map(lines.map((line) => [line, SORTS[by](line)]));
  return lines.sort((a, b) => {
    const [x, y] = [value.get(a)!, value.get(b)!];
    if (Number.isNaN(x) || Number.isNaN(y)) return Number(Number.isNaN(x)) - Number(Number.isNaN(y));
    return sign * (x - y) || (a.key < b.key ? -1 : 1);
  });
}

/** Bids of a kind with what a method makes of them, a page of those that are found, and sums over all of these. */
export function viewBids(
  db: Database,
  info: WorkspaceInfo,
  filter: BidFilter,
  offset: number,
  limit: number,
): Promise<Outcome<BidsView>> {
  const asked = [JSON.stringify(filter), offset, limit];
  return rememberShown(db, info, "bids shown", asked, () => makeView(db, info, filter, offset, limit));
}

async function makeView(
  db: Database,
  info: WorkspaceInfo,
  filter: BidFilter,
  offset: number,
  limit: number,
): Promise<Outcome<BidsView>> {
  const done = await findLines(db, info, filter);
  if (!done.ok) return done;
  const { all, found, proposed, expected, none } = done.value;
  const nameOf = campaignNames(all);
  const { account, homes, first } = all.ground;
  return ok({
    lines: found.slice(offset, offset + limit).map((line) => ({
      ...line,
      ...{ worth: Number.isFinite(line.worth) ? line.worth : null, campaignName: nameOf(line.campaign) },
      // An item that loses money on every sale has no return that it should reach.
      goal: line.goal && Number.isFinite(line.goal.goal) ? line.goal : null,
    })),
    total: found.length,
    ...{ proposed, expected },
    kinds: {
      item: first.reduce((count, at) => count + (at >= 0 ? 1 : 0), 0),
      group: homes.length,
      keyword: account.all("keyword").length,
      listing: account.all("listingTarget").length,
      reach: account.all("reach").length,
    },
    none,
    version: all.version,
  });
}

/** Bids by name, each with its amount as it was seen; or all proposals that a filter finds, with how many that were. */
export const whichBidsSchema = z.object({
  filter: bidFilterSchema,
  /** The last day of a push; a push needs one. */
  until: daySchema.optional(),
  which: z.union([
    z.object({
      lines: z
        .array(
          z.object({
            key: z.string().min(1).max(600),
            mills: amountSchema,
            /** Why, where it is not what the method makes of it. */
            reason: z.string().trim().min(1).max(200).optional(),
          }),
        )
        .min(1, "No bid is chosen.")
        .max(20_000),
    }),
    z.object({ proposed: z.int().min(1) }),
  ]),
});
export type WhichBids = z.output<typeof whichBidsSchema>;

interface ChosenBids {
  edit: Edit;
  pushes: { key: string; bid: number; back: number }[];
  of: "bid" | "item-bid";
}

async function chooseBids(
  db: Database,
  info: WorkspaceInfo,
  { filter, which, until }: WhichBids,
): Promise<Outcome<ChosenBids>> {
  if (filter.method === "push" && (!until || until <= todayOf(info))) {
    return fail("push-day", "A push ends on a day to come.", "Choose its last day, after today.");
  }
  const done = await findLines(db, info, "lines" in which ? { ...filter, q: "", show: "all" } : filter);
  if (!done.ok) return done;
  const { found } = done.value;
  const chosen: { line: BidLine; mills: number; reason?: string | undefined }[] = [];
  if ("lines" in which) {
    const lineOf = lineFinder(found);
    const unknown: string[] = [];
    for (const { key, mills, reason } of which.lines) {
      const line = lineOf(key);
      if (line) chosen.push({ line, mills, reason });
      else unknown.push(key);
    }
    if (unknown.length > 0) {
      const named = unknown.slice(0, 3).map((key) => `“${key}”`);
      const more = unknown.length > named.length ? ` and ${unknown.length - named.length} more` : "";
      return fail(
        "bid-unknown",
        `No ${BID_KINDS[filter.kind].toLowerCase()} with a bid: ${named.join(", ")}${more}. Nothing was changed.`,
        "Give IDs, keys or names as the desk shows them, and choose what they are.",
      );
    }
  } else {
    for (const line of found) if (line.proposed) chosen.push({ line, mills: line.proposed.bid });
    if (chosen.length !== which.proposed) {
      return fail(
        "bids-changed",
        `There are ${plural(chosen.length, "such bid")} now, ${which.proposed} were seen. Nothing was changed.`,
        "Look at them as they are now.",
      );
    }
  }
  const of = filter.kind === "item" ? "item-bid" : "bid";
  const byMethod = until ? `Push until ${until}` : BID_METHODS[filter.method];
  const amounts = chosen.map(({ line: { key }, mills, reason }) => ({ key, mills, reason: reason ?? byMethod }));
  return ok({
    edit: { action: "amounts", of, amounts },
    pushes:
      filter.method === "push" ? chosen.map(({ line: { key, bid: back }, mills: bid }) => ({ key, bid, back })) : [],
    of,
  });
}

/** Finds a line by its key, or by its name where no other has the same. */
function lineFinder(lines: readonly BidLine[]): (name: string) => BidLine | undefined {
  const byKey = new Map(lines.map((line) => [line.key, line]));
  const byName = new Map<string, BidLine | null>();
  for (const line of lines) {
    const name = line.name.toLowerCase();
    byName.set(name, byName.has(name) ? null : line);
  }
  return (name) => byKey.get(name) ?? byName.get(name.toLowerCase()) ?? undefined;
}

/** What setting bids would change, before it is done. */
export async function lookAtBids(db: Database, info: WorkspaceInfo, asked: WhichBids): Promise<Outcome<EditLook>> {
  const chosen = await chooseBids(db, info, asked);
  return chosen.ok ? lookAtEdit(db, chosen.value.edit, info.currency) : chosen;
}

/** Puts bids into the basket by the act that people use; pushes are kept with what they go back to, and until when. */
export async function setBids(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  stamp: number | null,
  asked: WhichBids,
): Promise<Outcome<Edited>> {
  const chosen = await chooseBids(db, info, asked);
  if (!chosen.ok) return chosen;
  const { edit, pushes, of } = chosen.value;
  // Kept first: a push that was not made ends in nothing, one that nobody kept would never end.
  if (pushes.length > 0) await keepPushes(db, who, of, asked.until!, pushes);
  return editAccount(db, who, stamp, edit, info.currency);
}

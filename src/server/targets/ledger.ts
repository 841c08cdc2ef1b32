import { asc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import type { Edit } from "@/core/account/acts";
import { recordName } from "@/core/account/names";
import { worthsOf, type PlaceWorth } from "@/core/bids/worths";
import { formatDay } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { PLACE_KINDS_TOLD } from "@/core/targets/place-kind";
import { judgePlaces, type JudgedPlace, type Verdict } from "@/core/targets/harvest";
import { ledgerKey, ledgerOf, type LedgerEntry, type LedgerState, type SentChange } from "@/core/targets/ledger";
import { itemsForPlace } from "@/core/targets/place-moves";
import { NAMED } from "@/core/account/acts/name-place";
import { startBid } from "@/core/targets/start-bid";
import type { Database } from "@/db/client";
import { dispatchChanges, dispatches } from "@/db/schema";
import { editAccount, type Edited } from "../account/edits";
import { lookAtEdit, type EditLook } from "../account/homes-between";
import { readAccount } from "../account/state";
import { rateBook } from "../channel/places";
import { loadMoves, type AllMoves } from "../moves/moves";
import { keepNotes, notesStamp, readNotes, type NamedPlace } from "../places/ledger-notes";
import { tellPlaces } from "../places/place-kinds";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";

/** What a list of the ledger can be of. */
export const LEDGER_SHOWN = ["harvest", "single", "waste", "used", "blocked", "dismissed", "retired", "all"] as const;
export type LedgerShown = (typeof LEDGER_SHOWN)[number];

export const LEDGER_SORTS = ["text", "clicks", "cost", "orders", "revenue", "acos", "aMonth", "since"] as const;

export const ledgerFilterSchema = z.object({
  show: z.enum(LEDGER_SHOWN).default("harvest"),
  q: z.string().max(200).default(""),
  sort: z
    .string()
    .regex(new RegExp(`^-?(${LEDGER_SORTS.join("|")})$`))
    .default("-aMonth"),
});
export type LedgerFilter = z.output<typeof ledgerFilterSchema>;

/** A term or listing with what it did, what should become of it, and where it stands. */
export interface LedgerLine extends Omit<JudgedPlace, "ledger"> {
  key: string;
  /** Null where the ledger knows nothing of it yet. */
  entry: LedgerEntry | null;
  /** Campaigns in which it had clicks. */
  campaigns: string[];
}

export interface LedgerView {
  lines: LedgerLine[];
  total: number;
  counts: Record<LedgerShown, number>;
  /** Days of results that figures are of. */
  days: number;
  version: number;
}

const MOST_LINES = 2_000;

const SHOWN_STATES: Partial<Record<LedgerShown, readonly LedgerState[]>> = {
  used: ["in use", "waiting", "paused"],
  blocked: ["blocked"],
  dismissed: ["dismissed", "elsewhere"],
  retired: ["retired"],
};

/** Every term and listing that results, account, dispatches and people know of, each once. */
export async function loadLedger(
  db: Database,
  info: WorkspaceInfo,
): Promise<Outcome<{ all: AllMoves; lines: LedgerLine[] }>> {
  const moves = await loadMoves(db, info);
  if (!moves.ok) return moves;
  const all = moves.value;
  const [last] = await db
    .select({ id: sql<number>`max(id)` })
    .from(dispatches)
    .where(eq(dispatches.state, "sent"));
  const stamp = [all.stamp, await notesStamp(db), last?.id ?? 0];
  const lines = await remember(db, "ledger", stamp, async () => {
    const { live, planned } = await readAccount(db);
    const nameOf = (key: string) => {
      const record = planned.get(key);
      return record ? recordName(planned, record) : key;
    };
    const entries = ledgerOf(live, planned, await readNotes(db, info), await sentChanges(db, last?.id ?? 0), nameOf);
    const campaignsOf = new Map<string, Set<string>>();
    for (const { place, campaign, clicks } of all.ground.places) {
      if (clicks <= 0) continue;
      const list = campaignsOf.get(place);
      if (list) list.add(campaign);
      else campaignsOf.set(place, new Set([campaign]));
    }
    const judged = judgePlaces(all.ground, entries).map((one): LedgerLine => {
      const { ledger, ...rest } = one;
      const key = one.what === null ? `?/${one.place}` : ledgerKey(one.what, one.place);
      const campaigns = [...(campaignsOf.get(one.place) ?? [])];
      return { ...rest, key, entry: ledger, campaigns: campaigns.map(nameOf) };
    });
    const known = new Set(judged.map(({ key }) => key));
    const others = [...entries].flatMap(([key, entry]): LedgerLine[] => {
      if (known.has(key)) return [];
      const [what, ...text] = key.split("/") as [LedgerLine["what"], ...string[]];
      const place = text.join("/");
      const nothing = { clicks: 0, cost: 0, orders: 0, revenue: 0, acos: null, ceiling: null, aMonth: null, factor: 1 };
      return [{ ...{ key, place, what, entry, campaigns: [], verdict: "open" }, ...nothing }];
    });
    return [...judged, ...others];
  });
  return ok({ all, lines });
}

/** What was sent of keywords, listing targets and negatives, the oldest first; read once a dispatch, since large ones take a while. */
async function sentChanges(db: Database, last: number): Promise<SentChange[]> {
  return remember(db, "sent targets", [last], () => readSent(db));
}

async function readSent(db: Database): Promise<SentChange[]> {
  const rows = await db
    .select({ before: dispatchChanges.before, after: dispatchChanges.after, fromDay: dispatches.fromDay })
    .from(dispatchChanges)
    .innerJoin(dispatches, eq(dispatches.id, dispatchChanges.dispatch))
    .where(
      sql`${dispatches.state} = 'sent' AND coalesce(${dispatchChanges.after}, ${dispatchChanges.before}) ->> 'type' IN ('keyword', 'listingTarget', 'negative')`,
    )
    .orderBy(asc(dispatches.id));
  return rows.map(({ before, after, fromDay }) => ({
    ...{ before, after },
    day: fromDay === null ? null : formatDay(fromDay),
  }));
}

function isShown({ verdict, entry }: LedgerLine, show: LedgerShown): boolean {
  if (show === "all") return true;
  const states = SHOWN_STATES[show];
  return states ? entry !== null && states.includes(entry.state) : verdict === (show as Verdict);
}

/** The ledger as a list shows it. */
export async function viewLedger(
  db: Database,
  info: WorkspaceInfo,
  filter: LedgerFilter,
): Promise<Outcome<LedgerView>> {
  const loaded = await loadLedger(db, info);
  if (!loaded.ok) return loaded;
  const { all, lines } = loaded.value;
  const words = filter.q.toLowerCase().split(/\s+/).filter(Boolean);
  const found = lines.filter(
    (line) => isShown(line, filter.show) && words.every((word) => line.place.toLowerCase().includes(word)),
  );
  const counts = Object.fromEntries(
    LEDGER_SHOWN.map((show) => [show, lines.reduce((sum, line) => sum + (isShown(line, show) ? 1 : 0), 0)]),
  ) as LedgerView["counts"];
  return ok({
    lines: sorted(found, filter.sort).slice(0, MOST_LINES),
    ...{ total: found.length, counts, days: all.ground.days, version: all.version },
  });
}

function sorted(lines: LedgerLine[], sort: string): LedgerLine[] {
  const isFalling = sort.startsWith("-");
  const by = sort.replace("-", "") as (typeof LEDGER_SORTS)[number];
  const value = (line: LedgerLine) =>
    by === "text" ? line.place : by === "since" ? (line.entry?.since ?? null) : line[by];
  return lines.toSorted((a, b) => {
    const [x, y] = [value(a), value(b)];
    // What is not known comes last, whichever way.
    if (x === null || y === null) return x === y ? (a.key < b.key ? -1 : 1) : x === null ? 1 : -1;
    const order = x < y ? -1 : x > y ? 1 : 0;
    return (isFalling ? -order : order) || (a.key < b.key ? -1 : 1);
  });
}

export const namedPlaceSchema = z.object({ what: z.enum(PLACE_KINDS_TOLD), text: z.string().trim().min(1).max(300) });
const places = z.array(namedPlaceSchema).min(1, "Nothing is chosen.").max(2_000);

export const harvestSchema = z.object({
  places,
  /** Whether they are kept out where their clicks came from, so that each is served by its own bid alone. */
  keepOut: z.boolean().default(false),
  /** Mills a click for single ones, by `what/text` as the ledger lists it. */
  bids: z.record(z.string(), z.int().min(1).max(1_000_000)).default({}),
});
export type Harvest = z.output<typeof harvestSchema>;

/** A line of what a harvest would make. Money in mills. */
export interface Harvested {
  key: string;
  place: string;
  items: { id: string; title: string }[];
  /** The dearest of its items, and what it was paid with. */
  bid: number;
  paid: number | null;
  worth: number | null;
  keptOutOf: string[];
}

export interface HarvestLook extends EditLook {
  made: Harvested[];
  /** Places that nothing can be made of, and why. */
  leftOut: { place: string; why: string }[];
}

interface Planned {
  edit: Edit | null;
  made: Harvested[];
  leftOut: HarvestLook["leftOut"];
}

/** The acts that aim at places by name: an exact keyword or a listing target for the items that do best there. */
async function planHarvest(db: Database, info: WorkspaceInfo, harvest: Harvest): Promise<Outcome<Planned>> {
  const loaded = await loadLedger(db, info);
  if (!loaded.ok) return loaded;
  const { all, lines } = loaded.value;
  const { ground } = all;
  const worths = worthsOf(ground);
  const byKey = new Map(lines.map((line) => [line.key, line]));
  const book = await rateBook(db);
  const acts: Extract<Edit, { action: "several" }>["acts"] = [];
  const made: Harvested[] = [];
  const leftOut: Planned["leftOut"] = [];
  const nameOf = (key: string) => {
    const record = ground.account.get(key);
    return record ? recordName(ground.account, record) : key;
  };
  for (const { what, text } of harvest.places) {
    const key = ledgerKey(what, text);
    const line = byKey.get(key);
    const place = line && worths.places.get(line.place);
    const refuse = (why: string) => void leftOut.push({ place: text, why });
    if (line?.entry && ["in use", "waiting"].includes(line.entry.state)) refuse("it is aimed at by name already");
    else if (!place) refuse("it had no clicks, so nothing tells which items do well there; aim at it by hand");
    else {
      const chosen = itemsForPlace(ground, worths, place);
      if (chosen.length === 0) refuse("none of the items clicked there can be bought now, or has a known worth");
      else {
        const card = what === "term" ? book.keyword(place.place, "exact") : book.listing(place.place);
        const bids = chosen.map(({ row }) =>
          startBid(
            {
              ...{ worth: worths.bid[row]! * place.factor * worths.factor.next, paid: place, card },
              home: ground.homes[ground.first[row]!]!.bid,
            },
            ground.rules,
          ),
        );
        const items = chosen.map(({ row }, i) => ({
          id: ground.idOf(row),
          bid: harvest.bids[key] ?? bids[i]!.bid,
        }));
        const best = bids.reduce((a, b) => (b.bid > a.bid ? b : a));
        const serveOrder = ground.homes[ground.first[chosen[0]!.row]!]!.campaign.serveOrder;
        const dailyBudget = ground.account.find("campaign", NAMED[what].key)?.dailyBudget ?? worths.money;
        const reason = `${plural(place.orders, "order")} of ${plural(place.clicks, "click")}`;
        acts.push({ act: { action: "name-place", what, value: place.place, items, dailyBudget, serveOrder }, reason });
        const origins = harvest.keepOut ? originsOf(all, place) : [];
        for (const scope of origins) {
          acts.push({
            act: {
              ...{ action: "keep-out", scope, reason: "wasteful", reviewOn: null },
              values: [{ what, match: "exact", value: place.place }],
            },
            reason: "Aimed at by name instead",
          });
        }
        made.push({
          ...{ key, place: place.place, keptOutOf: origins.map(nameOf) },
          items: chosen.map(({ row }) => ({ id: ground.idOf(row), title: ground.titleOf(row) })),
          ...{ bid: Math.max(...items.map(({ bid }) => bid)), paid: best.paid, worth: best.worth },
        });
      }
    }
  }
  return ok({ edit: acts.length === 0 ? null : { action: "several", acts }, made, leftOut });
}

/** Campaigns that run in which a place had clicks, without those for what is aimed at by name. */
function originsOf({ ground }: AllMoves, { place }: PlaceWorth): string[] {
  const named = new Set<string>(Object.values(NAMED).map(({ key }) => key));
  const found = ground.places.flatMap((line) => (line.place === place && line.clicks > 0 ? [line.campaign] : []));
  return [...new Set(found)].filter((key) => !named.has(key) && ground.account.find("campaign", key)?.status === "on");
}

const NOTHING_MADE = "Nothing can be made of these.";

/** What harvesting places would make, in words and numbers; changes nothing. */
export async function lookAtHarvest(
  db: Database,
  info: WorkspaceInfo,
  harvest: Harvest,
): Promise<Outcome<HarvestLook>> {
  const planned = await planHarvest(db, info, harvest);
  if (!planned.ok) return planned;
  const { edit, made, leftOut } = planned.value;
  if (!edit)
    return fail(
      "harvest-nothing",
      NOTHING_MADE,
      leftOut
        .map(({ place, why }) => `${place}: ${why}`)
        .slice(0, 3)
        .join("; "),
    );
  const look = await lookAtEdit(db, edit, info.currency);
  return look.ok ? ok({ ...look.value, made, leftOut }) : look;
}

/** Puts a harvest into the basket. */
export async function keepHarvest(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  version: number | null,
  harvest: Harvest,
): Promise<Outcome<Edited>> {
  const planned = await planHarvest(db, info, harvest);
  if (!planned.ok) return planned;
  if (!planned.value.edit) return fail("harvest-nothing", NOTHING_MADE, "Choose others.");
  return editAccount(db, who, version, planned.value.edit, info.currency);
}

export const noteSchema = z.object({
  places,
  state: z.enum(["dismissed", "elsewhere"]),
  reason: z.string().trim().max(300).default(""),
});

export const importSchema = z.object({
  values: z.array(z.string().trim().min(1).max(300)).min(1).max(50_000),
  reason: z.string().trim().max(300).default(""),
});

/** Notes lists of what is used elsewhere: each value by what it is; what nothing tells is named and not taken in. */
export async function importLedger(
  db: Database,
  who: string,
  { values, reason }: z.output<typeof importSchema>,
): Promise<{ kept: number; unsure: string[] }> {
  const { kinds } = await tellPlaces(db, values);
  const known = values.flatMap((text, i): NamedPlace[] => (kinds[i] ? [{ what: kinds[i], text }] : []));
  const kept = known.length === 0 ? 0 : await keepNotes(db, who, known, { state: "elsewhere", reason });
  return { kept, unsure: values.filter((_, i) => kinds[i] === null) };
}

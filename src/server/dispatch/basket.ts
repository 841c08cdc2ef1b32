import { desc, eq } from "drizzle-orm";
import { z } from "zod";
import { checkDiff, type Check } from "@/core/account/checks";
import { countLostHomes, type HomesProof } from "@/core/account/homes";
import { budgetChange, changesInWords, describeDiff, type ChangeWords } from "@/core/account/words";
import { withDependents, type Account } from "@/core/account/account";
import { estimateEffect, type Effect } from "@/core/dispatch/effect";
import { diffSize } from "@/core/kit/diff";
import { windowEnding, windowLength } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { dispatchChanges, dispatches } from "@/db/schema";
import { commit } from "../account/commit";
import { walkAccount } from "../account/serving";
import { asDiff, liveAccount, readAccount } from "../account/state";
import { enqueueIn, enqueueJob, findJob, newJob, type JobView } from "../jobs/jobs";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText, type Columns } from "@/core/kit/columns";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { loadWindow, resultDays, resultsVersion } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { inverseOf } from "./send";

/** The estimate looks back this many days. */
const EFFECT_DAYS = 30;

export interface BasketView {
  /** The account's version that is shown. */
  version: number;
  /** Records that change. */
  total: number;
  /** Of them on their way at this moment. */
  sending: number;
  /** Changes worth reading: without the nodes that only hold a tree together. */
  readable: number;
  /** They in words, a page of them. */
  changes: (ChangeWords & { source: string; who: string; reason: string; item: string | null })[];
  summary: string[];
  checks: Check[];
  budget: { before: number; after: number };
  effect: Effect | null;
  /** Items by how many homes they have after sending; of those without one, how many are sold out. */
  homes: { none: number; one: number; several: number; soldOut: number };
  leaks: { group: string; items: number }[];
}

type Told = { source: string; who: string; reason: string };
type Worked = Omit<BasketView, "changes"> & { changes: ChangeWords[]; told: Map<string, Told> };

async function workOut(db: Database, info: WorkspaceInfo): Promise<Worked> {
  const at = await readAccount(db);
  const { catalogue } = await walkAccount(db, at.planned);
  const days = await resultDays(db);
  const stamp = [at.version, at.sealedPart, catalogue.revision, await resultsVersion(db), days?.to, info.currency];
  return remember(db, "basket in words", stamp, async () => {
    const { live, planned, rows } = at;
    const { proof, serving } = await walkAccount(db, planned);
    const diff = asDiff(rows);
    let effect: Effect | null = null;
    if (days && rows.length > 0) {
      const window = windowEnding(days.to, EFFECT_DAYS);
      const results = await loadWindow(db, window);
      const before = (await walkAccount(db, live)).serving;
      effect = estimateEffect(before, serving, diff, catalogue.length, results.rows, windowLength(window));
    }
    const words = changesInWords(live, diff, info.currency);
    const homeless =
      rows.length === 0 ? [] : losesHomes((await walkAccount(db, live)).proof, proof, planned, catalogue);
    return {
      version: at.version,
      total: at.waiting,
      sending: rows.filter(({ part }) => part <= at.sealedPart).length,
      readable: words.length,
      changes: words,
      told: new Map(rows.map(({ key, source, who, reason }) => [key, { source, who, reason }])),
      summary: describeDiff(live, diff, info.currency),
      checks: rows.length === 0 ? [] : [...homeless, ...checkDiff(live, diff, info.currency)],
      budget: budgetChange(live, diff),
      effect,
      homes: {
        ...{ none: proof.none, one: proof.one, several: proof.several },
        soldOut: soldOutWithoutHome(catalogue, proof.perRow),
      },
      leaks: proof.leaks.map(({ group, items }) => ({ group, items })),
    };
  });
}

/** Items that nothing serves and that nobody could buy. */
function soldOutWithoutHome({ columns, length }: Columns, perRow: Uint16Array): number {
  const { availability } = columns;
  let count = 0;
  for (let row = 0; availability && row < length; row++) {
    if (perRow[row] === 0 && !isBuyable(cellText(availability, row))) count++;
  }
  return count;
}

/** Warns of items that can be bought, have a home now, and would have none. */
function losesHomes(before: HomesProof, after: HomesProof, account: Account, catalogue: Columns): Check[] {
  const count = countLostHomes(before, after, account, catalogue);
  if (count === 0) return [];
  const [their, them] = count === 1 ? ["its", "it"] : ["their", "them"];
  const message = `${plural(count, "item")} that can be bought would lose ${their} home: nothing would serve ${them} any more.`;
  return [{ code: "homes-lost", grave: false, message, keys: [] }];
}

/** The basket: what changes in words and numbers, what the checks say, and the proof of homes after sending. */
export async function viewBasket(db: Database, info: WorkspaceInfo, offset = 0, limit = 200): Promise<BasketView> {
  const { changes, told, ...view } = await workOut(db, info);
  const nobody: Told = { source: "", who: "", reason: "" };
  const page = changes.slice(offset, offset + limit);
  const titles = await itemTitles(
    db,
    page.map(({ key }) => key),
  );
  return {
    ...view,
    changes: page.map((change) => ({
      ...{ ...change, ...(told.get(change.key) ?? nobody) },
      item: titles.get(change.key) ?? null,
    })),
  };
}

/** Titles of the items that records are about, by the records' keys: an ID alone says nothing to people. */
async function itemTitles(db: Database, keys: string[]): Promise<Map<string, string>> {
  const { live, planned } = await readAccount(db);
  const idOf = (key: string): string | null => {
    const record = planned.get(key) ?? live.get(key);
    if (record?.type === "exclusion") return record.item;
    if (record?.type !== "productGroup" || record.parent === null) return null;
    const split = planned.get(record.parent) ?? live.get(record.parent);
    return split?.type === "productGroup" && split.by === "id" ? record.value : null;
  };
  const ids = new Map(keys.flatMap((key) => (idOf(key) === null ? [] : [[key, idOf(key)!] as const])));
  if (ids.size === 0) return new Map();
  const rows = await rowsById(db);
  const { columns } = await loadCatalogue(db, ["title"]);
  const titles = new Map<string, string>();
  for (const [key, id] of ids) {
    const row = rows.get(id);
    if (row !== undefined && columns["title"]) titles.set(key, cellText(columns["title"], row));
  }
  return titles;
}

export const basketRemoveSchema = z.object({
  /** Keys to take out, or "all". */
  keys: z.union([z.literal("all"), z.array(z.string()).min(1).max(10_000)]),
});

/**
 * Takes changes out of the basket again; nothing was sent, so nothing else happens. A new campaign or group takes all
 * that is new below it along, since that could not stand alone. What is on its way stays.
 */
export function removeFromBasket(
  db: Database,
  who: string,
  { keys }: z.infer<typeof basketRemoveSchema>,
): Promise<Outcome<{ removed: number }>> {
  return commit(db, who, null, ({ rows, held, sealedPart }) => {
    const open = new Set(rows.flatMap(({ key, part }) => (part > sealedPart ? [key] : [])));
    const wanted = keys === "all" ? open : withDependents(keys, Object.values(held.added));
    const out = [...wanted].filter((key) => open.has(key));
    return ok({
      out,
      told: { what: `${plural(out.length, "change")} taken out of the basket`, place: "dispatch" },
      value: { removed: out.length },
    });
  });
}

/**
 * Sends what lies in the basket at this moment: it is sealed and its sending queued in one step, so what is decided from
 * now on is not part of it and waits for the next time.
 * @param stamp the version of the account that the person saw; when the basket was changed since, nothing is sent. Null
 * sends whatever is there.
 */
export async function startDispatch(db: Database, who: string, stamp: number | null): Promise<Outcome<JobView>> {
  const job = newJob("dispatch", { takesBack: null });
  const sealed = await commit(db, who, null, ({ held, version, sealedPart }) => {
    if (sealedPart >= 0) {
      return fail(
        "dispatch-under-way",
        "A dispatch is on its way already.",
        "What was decided since waits in the basket; send it when that one has arrived.",
      );
    }
    if (diffSize(held) === 0) return fail("basket-empty", "The basket is empty: there is nothing to send.");
    if (stamp !== null && stamp !== version) {
      return fail(
        "basket-moved",
        "The basket was changed since you looked at it. Nothing was sent.",
        "Look at it again, then send.",
      );
    }
    return ok({ seal: { job: job.id }, also: (tx) => enqueueIn(tx, job), told: null, value: job.id });
  });
  return sealed.ok ? ok((await findJob(db, sealed.value))!) : sealed;
}

/** Dispatches, newest first. */
export async function listDispatches(db: Database) {
  return db.select().from(dispatches).orderBy(desc(dispatches.id)).limit(100);
}

/** One dispatch with its changes in words. */
export async function viewDispatch(db: Database, info: WorkspaceInfo, id: number, limit = 500) {
  const [row] = await db.select().from(dispatches).where(eq(dispatches.id, id));
  if (!row) return fail("dispatch-unknown", `There is no dispatch ${id}.`);
  const changes = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, id)).limit(limit);
  const diff = asDiff(changes);
  return ok({ ...row, changes: changesInWords(await liveAccount(db), diff, info.currency) });
}

/**
 * Takes a dispatch back: its inverse is sent as a dispatch of its own, past the basket. Refused when one of its records was
 * changed since, by whatever way, or waits in the basket with another change: that would undo more than was asked.
 */
export async function takeBackDispatch(db: Database, id: number): Promise<Outcome<JobView>> {
  const inverse = await inverseOf(db, await readAccount(db), id);
  if (!inverse.ok) return inverse;
  return ok(await enqueueJob(db, "dispatch", { takesBack: id }));
}

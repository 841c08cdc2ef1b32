import { and, desc, eq, gt, isNotNull, isNull } from "drizzle-orm";
import type { Account } from "@/core/account/account";
import { FORGOTTEN, STANDING_LABEL, standingOf, STANDINGS, type Standing } from "@/core/account/standing";
import { BACK_IN_STOCK, fieldBits, isBuyable } from "@/core/catalogue/field-changes";
import { FIELD_KEYS, type FieldKey } from "@/core/catalogue/fields";
import { cellText, type TextColumn } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { dispatches, planograms, refreshChanges, revisions } from "@/db/schema";
import { walkAccount } from "../../account/serving";
import { liveAccount, readVersions } from "../../account/state";
import { loadCatalogue } from "../../catalogue/load";
import { remember } from "../../read/memo";
import { rememberReady } from "../../read/ready";

/** How the items of the catalogue stand to what the channel has. */
export interface Standings {
  /** For each row its place in `STANDINGS`. */
  ofRow: Uint8Array;
  counts: Record<Standing, number>;
}

/** What the readings since the structure was last sent did to items, as bits by item number; and which are new since. */
async function changesSince(db: Database): Promise<{ bits: Map<number, number>; fresh: Set<number> }> {
  const [sent] = await db
    .select({ at: dispatches.sentAt })
    .from(dispatches)
    .where(and(eq(dispatches.state, "sent"), isNull(dispatches.takenBackBy), isNull(dispatches.takesBack)))
    .orderBy(desc(dispatches.id))
    .limit(1);
  const rows = await db
    .select({ itemNo: refreshChanges.itemNo, kind: refreshChanges.kind, fields: refreshChanges.fields })
    .from(refreshChanges)
    .innerJoin(revisions, eq(revisions.id, refreshChanges.revision))
    .where(and(isNotNull(revisions.finishedAt), gt(revisions.finishedAt, sent?.at ?? 0)));
  const bits = new Map<number, number>();
  const fresh = new Set<number>();
  for (const { itemNo, kind, fields } of rows) {
    bits.set(itemNo, (bits.get(itemNo) ?? 0) | fields);
    if (kind === "new" || kind === "returned") fresh.add(itemNo);
  }
  return { bits, fresh };
}

/** Bits of the fields that the structure splits by. */
function splitBits(account: Account): number {
  const known: readonly string[] = FIELD_KEYS;
  const splits = new Set(account.all("productGroup").map(({ by }) => (by ?? "").replace(/^category\d$/, "category")));
  return fieldBits([...splits].filter((by) => known.includes(by)) as FieldKey[]);
}

/** Works out how every item stands. Kept until the account or the catalogue changes. */
export async function loadStandings(db: Database): Promise<Standings> {
  const account = await liveAccount(db);
  const { catalogue, proof } = await walkAccount(db, account);
  return remember(db, "standings", [account.id, catalogue.revision], async () => {
    const { columns, length } = await loadCatalogue(db, ["id", "availability"]);
    const excluded = new Set(
      account
        .all("exclusion")
        .filter(({ campaign }) => campaign === null)
        .map(({ item }) => item),
    );
    const { bits, fresh } = await changesSince(db);
    const splits = splitBits(account);
    const { id, availability, itemNo } = columns;
    const ofRow = new Uint8Array(length);
    const counts = Object.fromEntries(STANDINGS.map((standing) => [standing, 0])) as Record<Standing, number>;
    for (let row = 0; row < length; row++) {
      const no = itemNo?.kind === "number" ? itemNo.values[row]! : -1;
      const changed = bits.get(no) ?? 0;
      const standing = standingOf({
        homes: proof.perRow[row]!,
        isSoldOut: availability ? !isBuyable(cellText(availability, row)) : false,
        isExcluded: excluded.size > 0 && id !== undefined && excluded.has(cellText(id, row)),
        isNew: fresh.has(no),
        isBack: (changed & BACK_IN_STOCK) !== 0,
        isChanged: (changed & splits) !== 0,
      });
      ofRow[row] = STANDINGS.indexOf(standing);
      counts[standing]++;
    }
    return { ofRow, counts };
  });
}

/** The standings as a column of the item table. */
export async function standingColumn(db: Database): Promise<TextColumn> {
  const { ofRow } = await loadStandings(db);
  return {
    kind: "text",
    values: STANDINGS.map((standing) => STANDING_LABEL[standing]),
    codes: Uint32Array.from(ofRow),
  };
}

/** Items that nobody chose to leave out and nothing serves, by why; and the plan that would take them in. */
export interface Forgotten {
  total: number;
  byReason: { standing: Standing; items: number }[];
  /** The planogram that most campaigns of the structure were made from, or null. */
  planogram: string | null;
}

/** How many items stand how. Counting takes a walk over the whole catalogue, so the runner does it ahead. */
async function standingCounts(db: Database): Promise<Standings["counts"]> {
  const { recordsVersion } = await readVersions(db.$client);
  const { revision } = await loadCatalogue(db, []);
  return rememberReady(db, "standing counts", [recordsVersion, revision], async () => (await loadStandings(db)).counts);
}

/** Product groups of the account as sent that serve whatever no other takes. */
export async function countLeaks(db: Database): Promise<number> {
  const { recordsVersion } = await readVersions(db.$client);
  const { revision } = await loadCatalogue(db, []);
  const make = async () => (await walkAccount(db, await liveAccount(db))).proof.leaks.length;
  return rememberReady(db, "leaks", [recordsVersion, revision], make);
}

/** What is without a home and should not be. */
export async function forgottenItems(db: Database): Promise<Forgotten> {
  const counts = await standingCounts(db);
  const byReason = FORGOTTEN.map((standing) => ({ standing, items: counts[standing] })).filter(
    ({ items }) => items > 0,
  );
  const account = await liveAccount(db);
  const kept = new Set((await db.select({ key: planograms.key }).from(planograms)).map(({ key }) => key));
  const made = new Map<string, number>();
  for (const { origin } of account.all("campaign")) {
    if (origin !== null && kept.has(origin)) made.set(origin, (made.get(origin) ?? 0) + 1);
  }
  const [most] = [...made].sort((a, b) => b[1] - a[1]);
  return { total: byReason.reduce((sum, { items }) => sum + items, 0), byReason, planogram: most?.[0] ?? null };
}

import { and, eq, inArray, ne } from "drizzle-orm";
import { RateBook, type RateCard, cardOver } from "@/core/channel/rate-card";
import type { Place } from "@/core/channel/place";
import { dayAt, type Day } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { channelPlaces, channelState, type PlaceOrigin } from "@/db/schema";
import { bulkInsert, bulkSelect } from "../bulk";
import { remember } from "../read/memo";

/** A place with who told of it, and when. */
export interface ToldPlace extends Place {
  origin: PlaceOrigin;
  day: Day;
}

/** Moves with every change of places; what is made of them is kept by it. */
export async function placesVersion(db: Database): Promise<number> {
  const [state] = await db.select({ version: channelState.placesVersion }).from(channelState);
  return state?.version ?? 0;
}

const COLUMNS = [
  ...(["kind", "name", "category", "origin", "day", "version", "role", "low", "typical", "high"] as const),
  ...(["monthlyViews", "places", "title", "price", "rating", "reviews", "who"] as const),
];

function toRow(place: Place, origin: PlaceOrigin, day: Day, version: number, who: string): unknown[] {
  const { kind, name, category, role, low, typical, high, monthlyViews, places, title, price, rating, reviews } = place;
  return [
    ...[kind, name, category, origin, day, version, role, low, typical, high],
    ...[monthlyViews, places, title, price, rating, reviews, who],
  ];
}

type Executor = Pick<Database["$client"], "execute">;

async function nextVersion(on: Executor): Promise<number> {
  const { rows } = await on.execute(
    "INSERT INTO channel_state (id) VALUES (1) ON CONFLICT (id) DO UPDATE SET id = 1 RETURNING places_version",
  );
  return Number(rows[0]![0]) + 1;
}

/** Rows a transaction: others get to write in between. */
const ROWS_AT_A_TIME = 5000;
const NAMES_AT_A_TIME = 500;

/**
 * Keeps what the channel tells of places in place of what it told before. Written in parts, so that nobody waits long; what
 * was not told again goes last, and only then does the version move.
 * @param toldOn what it stands on, by which it is known when it is due again
 * @param step called after each part with how many were kept so far
 */
export async function keepTold(
  db: Database,
  places: Iterable<Place> | AsyncIterable<Place>,
  timeZone: string,
  toldOn: string,
  step: (done: number) => Promise<void>,
): Promise<number> {
  const version = await nextVersion(db.$client);
  const today = dayAt(Date.now(), timeZone);
  let part: unknown[][] = [];
  let done = 0;
  const write = async () => {
    if (part.length === 0) return;
    const tx = await db.$client.transaction("write");
    try {
      // The same place may be told before: with another version it is the old one.
      await tx.execute({
        sql: `DELETE FROM channel_places WHERE origin = 'channel' AND (kind, name, category) IN
              (SELECT value ->> 0, value ->> 1, value ->> 2 FROM json_each(?))`,
        args: [JSON.stringify(part.map(([kind, name, category]) => [kind, name, category]))],
      });
      await bulkInsert(tx, channelPlaces, COLUMNS, part);
      await tx.commit();
    } finally {
      tx.close();
    }
    done += part.length;
    part = [];
    await step(done);
  };
  const seen = new Set<string>();
  for await (const place of places) {
    const key = `${place.kind}\n${place.name}\n${place.category}`;
    if (seen.has(key)) continue;
    seen.add(key);
    part.push(toRow(place, "channel", today, version, ""));
    if (part.length >= ROWS_AT_A_TIME) await write();
  }
  await write();
  const tx = await db.$client.transaction("write");
  try {
    await tx.execute({
      // What another one that runs beside this wrote since is newer, and stays.
      sql: "DELETE FROM channel_places WHERE origin = 'channel' AND version < ?",
      args: [version],
    });
    await tx.execute({
      // People may have given places meanwhile, which moved the version as well.
      sql: "UPDATE channel_state SET places_version = places_version + 1, told_on = ?, told_at = ? WHERE id = 1",
      args: [toldOn, Date.now()],
    });
    await tx.commit();
  } finally {
    tx.close();
  }
  return done;
}

/** Keeps places that a person gave, pasted or in a file; the same ones of before go, whatever category they stood in. */
export async function keepGiven(
  db: Database,
  who: string,
  origin: Exclude<PlaceOrigin, "channel">,
  places: Place[],
  timeZone: string,
): Promise<void> {
  const today = dayAt(Date.now(), timeZone);
  const tx = await db.$client.transaction("write");
  try {
    const version = await nextVersion(tx);
    await tx.execute({
      sql: `DELETE FROM channel_places WHERE origin = ?1 AND (kind, name) IN
            (SELECT value ->> 0, value ->> 1 FROM json_each(?2))`,
      args: [origin, JSON.stringify(places.map(({ kind, name }) => [kind, name]))],
    });
    await bulkInsert(
      tx,
      channelPlaces,
      COLUMNS,
      places.map((place) => toRow(place, origin, today, version, who)),
    );
    await tx.execute({ sql: "UPDATE channel_state SET places_version = ? WHERE id = 1", args: [version] });
    await tx.commit();
  } finally {
    tx.close();
  }
}

/** What a place is read from, in the order of {@link fromCells}. */
const PLACE_COLUMNS = [
  ...(["kind", "name", "category", "origin", "day", "role", "low", "typical", "high"] as const),
  ...(["monthlyViews", "places", "title", "price", "rating", "reviews"] as const),
] as const;

function fromCells(cells: unknown[]): ToldPlace {
  const place: Record<string, unknown> = {};
  for (let i = 0; i < PLACE_COLUMNS.length; i++) place[PLACE_COLUMNS[i]!] = cells[i];
  return place as unknown as ToldPlace;
}

function fromRow(row: typeof channelPlaces.$inferSelect): ToldPlace {
  const { version: _, who: __, ...place } = row;
  return place;
}

/** All queries and listings that are known, by whoever told of them. */
export async function knownPlaces(db: Database): Promise<ToldPlace[]> {
  return remember(db, "known places", [await placesVersion(db)], async () =>
    (await db.select().from(channelPlaces).where(ne(channelPlaces.kind, "item"))).map(fromRow),
  );
}

/** Of what several told of the same place, what counts for its price: the latest that has one. */
export function settled(places: readonly ToldPlace[]): ToldPlace[] {
  const latest = new Map<string, ToldPlace>();
  for (const place of places) {
    if (place.typical === null) continue;
    const key = `${place.kind}\n${place.name}`;
    const known = latest.get(key);
    if (!known || isLater(place, known)) latest.set(key, place);
  }
  return places.filter((place) => {
    const counts = latest.get(`${place.kind}\n${place.name}`);
    // One origin may tell of the same place in several categories: all of them count.
    return counts === undefined || counts.origin === place.origin;
  });
}

/** Of the same day what a person gave counts: they know what they put there. */
const isLater = (a: ToldPlace, b: ToldPlace) => a.day > b.day || (a.day === b.day && b.origin === "channel");

/** The rate book of what is known of queries and listings. */
export async function rateBook(db: Database): Promise<RateBook> {
  const version = await placesVersion(db);
  return remember(db, "rate book", [version], async () => new RateBook(settled(await knownPlaces(db))));
}

/** What is known of items of ours, by their IDs. */
export async function knownItems(db: Database, ids: readonly string[]): Promise<Map<string, ToldPlace>> {
  const found = new Map<string, ToldPlace>();
  // A statement has room for some thousand names.
  for (let at = 0; at < ids.length; at += NAMES_AT_A_TIME) {
    const part = await db
      .select()
      .from(channelPlaces)
      .where(and(eq(channelPlaces.kind, "item"), inArray(channelPlaces.name, ids.slice(at, at + NAMES_AT_A_TIME))));
    for (const place of settled(part.map(fromRow))) found.set(place.name, place);
  }
  return found;
}

/** What is told of every item of ours, by its ID. */
export async function everyItemPlace(db: Database): Promise<ReadonlyMap<string, ToldPlace>> {
  return remember(db, "item places", [await placesVersion(db)], async () => {
    const places: ToldPlace[] = [];
    // The plus keeps the database from looking them up by kind, after which it would sort them all for every page.
    for await (const rows of bulkSelect(db.$client, channelPlaces, [...PLACE_COLUMNS], "+kind = 'item'")) {
      for (const cells of rows) places.push(fromCells(cells));
    }
    return new Map(settled(places).map((place) => [place.name, place]));
  });
}

/** The card of one item; null where nothing is told of it, or no price is. */
export function itemCard(items: ReadonlyMap<string, ToldPlace>, id: string): RateCard | null {
  const place = items.get(id);
  return place ? cardOver([place]) : null;
}

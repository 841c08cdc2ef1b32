import { deserialize, serialize } from "node:v8";
import { and, eq } from "drizzle-orm";
import type { Database } from "@/db/client";
import { ready } from "@/db/schema";
import { log } from "../log";
import { remember, type Stamp } from "./memo";

/** What this process was built from; undefined where it runs from its sources, which may change any time. */
const BUILD = process.env["HOTSHELF_BUILD"];

let makesReady = false;
const underWay = new Set<Promise<void>>();

/** Waits until all that this process has worked out so far is stored. */
export async function allStored(): Promise<void> {
  await Promise.all(underWay);
}

/** From here on this process stores what it works out, for those who ask: the hands do, whose work nobody waits for. */
export function storeWhatIsReady(): void {
  makesReady = true;
}

/**
 * Like {@link remember}, and where another process has stored the same, that is read back: it takes a hundredth of the time. It
 * stands in the workspace's own database, so a back-up that is put back brings nothing that its rows do not say.
 * @param make gives plain data (numbers, texts, lists, typed arrays, maps): it comes back from another process as a copy
 * @param keep how many of the name are kept beside each other
 */
export function rememberReady<T>(
  db: Database,
  name: string,
  stamp: Stamp,
  make: () => Promise<T> | T,
  keep = 1,
  build = BUILD,
): Promise<T> {
  const work = async () => {
    if (build === undefined) return make();
    const stored = await readBack<T>(db, name, stamp, build);
    if (stored) return stored.value;
    const value = await make();
    if (makesReady) {
      // Not waited for here: whoever asks may hold this process's turn to write, and would wait for itself.
      const storing = store(db, name, stamp, value, keep, build).finally(() => underWay.delete(storing));
      underWay.add(storing);
    }
    return value;
  };
  return remember(db, name, stamp, work, keep);
}

/** What is stored under a name and stamp. What can't be read counts as not there. */
async function readBack<T>(db: Database, name: string, stamp: Stamp, build: string): Promise<{ value: T } | null> {
  const same = and(eq(ready.name, name), eq(ready.stamp, JSON.stringify(stamp)), eq(ready.build, build));
  try {
    const [row] = await db.select({ body: ready.body }).from(ready).where(same);
    return row ? { value: deserialize(row.body) as T } : null;
  } catch (error) {
    log.warn({ err: error, name }, "what was stored can't be read, and is worked out again");
    return null;
  }
}

/** Stores it and lets older ones of its name go. That it can't be stored costs time and nothing else. */
async function store(
  db: Database,
  name: string,
  stamp: Stamp,
  value: unknown,
  keep: number,
  build: string,
): Promise<void> {
  try {
    await db.$client.batch(
      [
        {
          sql: "INSERT OR REPLACE INTO ready (name, stamp, build, body, at) VALUES (?, ?, ?, ?, ?)",
          args: [name, JSON.stringify(stamp), build, serialize(value), Date.now()],
        },
        {
          sql: `DELETE FROM ready WHERE build <> ? OR name = ? AND stamp NOT IN
            (SELECT stamp FROM ready WHERE name = ? ORDER BY at DESC LIMIT ?)`,
          args: [build, name, name, keep],
        },
      ],
      "write",
    );
  } catch (error) {
    log.warn({ err: error, name }, "what was worked out can't be stored");
  }
}

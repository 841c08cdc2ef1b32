/** One ID of a pasted list, with the days it is a member from and until, both counted in. */
export interface ListEntry {
  id: string;
  from: string | null;
  until: string | null;
}

const DAY = /^\d{4}-\d{2}-\d{2}$/;
const HEADING = /^(item[ _-]?)?(id|sku|item|artikelnummer)s?$/i;

/** What parts IDs in one line; spaces do only where that makes them IDs that are known. */
const PARTS = /[,;\t|]+/;

/** The pieces of a cell: itself where it is known or has no spaces, else its words where those are known. */
function pieces(cell: string, isKnown: (id: string) => boolean): string[] {
  if (!/\s/.test(cell) || isKnown(cell)) return [cell];
  const words = cell.split(/\s+/);
  return words.some(isKnown) ? words : [cell];
}

/**
 * The IDs of a list pasted in any form: one a line, or several with commas, semicolons, tabs, bars or spaces, quoted or not.
 * A line `ID, day` or `ID, day, day` (`YYYY-MM-DD`) says from and until when. A first line that heads a column (`id`,
 * `item id`, `sku` …) is no ID. The same ID in another case is the same; the first stands.
 */
export function listOfIds(text: string, isKnown: (id: string) => boolean): ListEntry[] {
  const entries: ListEntry[] = [];
  text.split(/\r\n|\r|\n/).forEach((line, at) => {
    const cells = line.split(PARTS).map((cell) =>
      cell
        .trim()
        .replace(/^["']+|["']+$/g, "")
        .trim(),
    );
    if (at === 0 && HEADING.test(cells[0]!) && !isKnown(cells[0]!)) return;
    let last: ListEntry | null = null;
    for (const cell of cells) {
      if (cell === "") continue;
      if (DAY.test(cell) && last && !isKnown(cell)) {
        if (last.from === null) last.from = cell;
        else last.until = cell;
        continue;
      }
      for (const id of pieces(cell, isKnown)) entries.push((last = { id, from: null, until: null }));
    }
  });
  return entries;
}

/** What a list would do to the one there is. */
export interface ListEffect {
  added: string[];
  removed: string[];
  /** On both, with other days or without change. */
  kept: string[];
}

/**
 * @param mode `replace` takes off what the new list does not name, `add` takes nothing off, `remove` takes off what it names
 * @param plain what two IDs share when they mean the same item
 */
export function listEffect(
  now: string[],
  given: string[],
  mode: "replace" | "add" | "remove",
  plain: (id: string) => string,
): ListEffect {
  const has = new Set(now.map(plain));
  const wanted = new Set(given.map(plain));
  const isNamed = (id: string) => wanted.has(plain(id));
  const stays = { add: () => true, replace: isNamed, remove: (id: string) => !isNamed(id) }[mode];
  return {
    added: mode === "remove" ? [] : given.filter((id) => !has.has(plain(id))),
    removed: now.filter((id) => !stays(id)),
    kept: now.filter(stays),
  };
}

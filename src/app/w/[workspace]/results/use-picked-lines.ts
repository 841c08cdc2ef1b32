import { useCallback, useState } from "react";
import type { Level } from "@/core/results/levels";
import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { apiGet, toastError } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

/** Lines that can be picked together. */
export const MOST_PICKED = 100_000;

const NOTHING: ReadonlySet<string> = new Set();

/** The picked lines: those on screen, and those that were read for picking all. */
function pickedLines(shown: SliceLine[], beyond: SliceLine[], keys: ReadonlySet<string>): SliceLine[] {
  const read = shown.filter(({ key }) => keys.has(key));
  const known = new Set(read.map(({ key }) => key));
  return [...read, ...beyond.filter(({ key }) => keys.has(key) && !known.has(key))];
}

/**
 * What is picked of the lines of results. It is of one level; on another one there is nothing of it.
 * @param all path of all that is found, read where it is more than what is on screen and all of it is picked
 */
export function usePickedLines(level: Level, slice: Slice | undefined, all: string) {
  const apiPath = useApiPath();
  const [picked, setPicked] = useState<{ level: Level; keys: ReadonlySet<string>; beyond: SliceLine[] }>({
    ...{ level, keys: NOTHING, beyond: [] },
  });
  const selected = picked.level === level ? picked.keys : NOTHING;
  const select = useCallback(
    (keys: ReadonlySet<string>) => setPicked((old) => ({ level, keys, beyond: old.level === level ? old.beyond : [] })),
    [level],
  );
  /** Picks all that is found: those that are not read yet are read now. With something picked, picks nothing. */
  const selectAll = async () => {
    if (selected.size > 0 || !slice) return select(NOTHING);
    const { count, lines: read } = slice;
    try {
      const found = count > read.length ? await apiGet<Slice>(apiPath(all)) : slice;
      setPicked({ level, keys: new Set(found.lines.map(({ key }) => key)), beyond: found.lines.slice(read.length) });
    } catch (error) {
      toastError(error);
    }
  };
  return { selected, select, selectAll, lines: pickedLines(slice?.lines ?? [], picked.beyond, selected) };
}

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { decodeLive, liveFigures, type LiveFigures } from "@/core/shelves/live";
import { shelfSetSchema, type ShelfSet } from "@/core/shelves/shelf-set";
import { useSettled } from "@/ui/use-settled";
import { apiBytes } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

/** A set with the numbers of its cuts left out: what columns a screen needs hangs on the rest. */
function structureOf(set: ShelfSet): ShelfSet {
  const shelves = set.shelves.map((shelf, at) =>
    shelf.kind === "band" && shelf.cut?.by === "value"
      ? { ...shelf, name: shelf.key, cut: { ...shelf.cut, at: shelf.side === "below" ? at : -at } }
      : { ...shelf, name: shelf.key },
  );
  return { ...set, name: set.key, shelves };
}

/** What every shelf of a draft would hold, worked out on the screen as cuts are dragged; null until the columns are here. */
export function useLiveFigures(draft: ShelfSet): LiveFigures | null {
  const apiPath = useApiPath();
  const wanted = JSON.stringify(structureOf(draft));
  const structure = useSettled(wanted, 150);
  const isWhole = shelfSetSchema.safeParse(JSON.parse(structure)).success;
  const live = useQuery({
    queryKey: ["api", "live shelves", structure],
    queryFn: async () => ({
      of: structure,
      set: decodeLive(await apiBytes(apiPath("shelf-sets/live"), JSON.parse(structure))),
    }),
    enabled: isWhole,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  }).data;
  return useMemo(() => {
    if (!live || live.of !== wanted) return null;
    return liveFigures(draft, live.set);
  }, [live, wanted, draft]);
}

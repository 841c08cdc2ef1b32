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

/**
 * What every shelf of a draft would hold, worked out on the screen as cuts are dragged; null until the columns are here.
 * @returns the figures, and why there are none where the columns could not be read
 */
export function useLiveFigures(draft: ShelfSet): { figures: LiveFigures | null; error: Error | null } {
  const path = useApiPath()("shelf-sets/live");
  const wanted = JSON.stringify(structureOf(draft));
  const structure = useSettled(wanted, 150);
  const isWhole = shelfSetSchema.safeParse(JSON.parse(structure)).success;
  const { data: live, error } = useQuery({
    queryKey: ["api", path, "asked", structure],
    queryFn: async ({ signal }) => ({
      of: structure,
      set: decodeLive(await apiBytes(path, JSON.parse(structure), signal)),
    }),
    enabled: isWhole,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  return useMemo(
    () => ({ figures: live?.of === wanted ? liveFigures(draft, live.set) : null, error }),
    [live, wanted, draft, error],
  );
}

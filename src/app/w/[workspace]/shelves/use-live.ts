import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { decodeLive, liveFigures, withoutCuts, type LiveFigures } from "@/core/shelves/live";
import { shelfSetSchema, type ShelfSet } from "@/core/shelves/shelf-set";
import { useSettled } from "@/ui/use-settled";
import { apiBytes } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

/**
 * What every shelf of a draft would hold, worked out on the screen as cuts are dragged; null until the columns are here.
 * @returns the figures, and why there are none where the columns could not be read
 */
export function useLiveFigures(draft: ShelfSet): { figures: LiveFigures | null; error: Error | null } {
  const path = useApiPath()("shelf-sets/live");
  const wanted = JSON.stringify(withoutCuts(draft));
  const structure = useSettled(wanted, 150);
  const isWhole = shelfSetSchema.safeParse(JSON.parse(structure)).success;
  const { data: live, error } = useQuery({
    queryKey: ["api", path, "asked", structure],
    queryFn: async () => ({ of: structure, set: decodeLive(await apiBytes(path, JSON.parse(structure))) }),
    enabled: isWhole,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  return useMemo(
    () => ({ figures: live?.of === wanted ? liveFigures(draft, live.set) : null, error }),
    [live, wanted, draft, error],
  );
}

import type { SuggestedItem } from "@/server/targets/suggest-items";
import { useAsk } from "../../_lib/api";
import { useApiPath } from "../../_lib/workspace";

/** Items by their IDs as lists tell them; IDs that no item has are left out. */
export function useSuggestedItems(ids: string[]): SuggestedItem[] {
  const apiPath = useApiPath();
  const told = useAsk<SuggestedItem[]>(
    apiPath("targets/items/told"),
    { ids },
    { enabled: ids.length > 0, placeholderData: (before) => before },
  );
  return ids.length === 0 ? [] : (told.data ?? []);
}

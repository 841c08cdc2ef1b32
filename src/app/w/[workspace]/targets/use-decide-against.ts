import { plural } from "@/core/kit/format";
import type { TermOrListing } from "@/core/targets/place-kind";
import { apiSend, toastError } from "../../../_lib/api";
import { sayDone } from "../../../_lib/undo";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** Notes terms and listings as decided against, with a way back. Answers whether it was kept. */
export function useDecideAgainst(): (
  places: { what: TermOrListing; text: string }[],
  reason: string,
) => Promise<boolean> {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return async (places, reason) => {
    try {
      await apiSend(apiPath("ledger/notes"), { places, state: "dismissed", reason });
      sayDone(`Decided against ${plural(places.length, "line")}`, () =>
        apiSend(apiPath("ledger/notes/forget"), { places }).then(refresh),
      );
      await refresh();
      return true;
    } catch (error) {
      toastError(error);
      return false;
    }
  };
}

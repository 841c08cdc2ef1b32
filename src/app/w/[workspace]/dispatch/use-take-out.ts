"use client";

import { useCallback } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";
import { useChange } from "../use-edit";

/** How long the way back stays on screen, milliseconds: what was taken out by mistake is often noticed late. */
const SHOWN = 20_000;

/** Takes changes out of the basket: some, all that a filter finds, or all; says how many, with a way to put them back. */
export function useTakeOut(): (keys: string[] | object | "all") => Promise<void> {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange();
  return useCallback(
    async (keys) => {
      const { removed, undo } = await change<{ removed: number; undo: string | null }>("basket/remove", { keys });
      if (undo === null) return void toast.info("Nothing of it waits in the basket any more.");
      const putBack = () =>
        apiSend(apiPath(`basket/put-back/${undo}`))
          .then(refresh)
          .catch(toastError);
      toast.success(`${plural(removed, "change")} taken out of the basket`, {
        duration: SHOWN,
        action: { label: "Put back", onClick: () => void putBack() },
      });
    },
    [apiPath, change, refresh],
  );
}

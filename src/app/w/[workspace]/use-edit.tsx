"use client";

import { useCallback } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { z } from "zod";
import type { intentSchema } from "@/core/account/intents";
import type { Edited } from "@/server/account/edits";
import { apiSend, toastError } from "../../_lib/api";
import { useApiPath, useRefresh } from "../../_lib/workspace";

/** An edit of the account, as forms make it. */
export type Edit = z.input<typeof intentSchema>;

/**
 * Puts an edit of the account into the basket; says so, with a way to take it back. Answers whether it worked.
 * @param version the account's version that is on screen: what somebody else changed since is not overwritten
 */
export function useEdit(version?: number): (edit: Edit) => Promise<boolean> {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return useCallback(
    async (edit) => {
      try {
        const { changes, words, diff } = await apiSend<Edited>(
          apiPath(version === undefined ? "account/edits" : `account/edits?version=${version}`),
          edit,
        );
        if (changes === 0) toast.info("That is how it is already; nothing to change.");
        else {
          toast.success(`${words}: ${plural(changes, "change")} in the basket`, {
            action: {
              label: "Take back",
              onClick: () => void apiSend(apiPath("account/edits/take-back"), diff).then(refresh).catch(toastError),
            },
          });
        }
        await refresh();
        return true;
      } catch (error) {
        toastError(error);
        return false;
      }
    },
    [apiPath, refresh, version],
  );
}

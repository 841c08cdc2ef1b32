"use client";

import { useCallback } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { z } from "zod";
import type { intentSchema } from "@/core/account/intents";
import type { Edited } from "@/server/account/edits";
import { apiSend, toastError } from "../../_lib/api";
import { noteOwnVersion, versionInMind } from "../../_lib/own-versions";
import { useApiPath, useRefresh, useWorkspace } from "../../_lib/workspace";

/** An edit of the account, as forms make it. */
export type Edit = z.input<typeof intentSchema>;

/**
 * Puts an edit of the account into the basket; says so, with a way to take it back. Answers whether it worked, once the
 * screen shows it.
 * @param version the account's version that is on screen: what somebody else changed since is not overwritten
 * @returns takes an edit, and what is to be done as soon as it is in the basket, such as closing a dialog: reading the
 *   figures anew takes seconds in a large account
 */
export function useEdit(version?: number): (edit: Edit, onTaken?: () => void) => Promise<boolean> {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return useCallback(
    async (edit, onTaken) => {
      try {
        const seen = version === undefined ? "" : `?version=${versionInMind(slug, version)}`;
        const { changes, words, diff, ...made } = await apiSend<Edited>(apiPath(`account/edits${seen}`), edit);
        if (changes > 0) noteOwnVersion(slug, made.version);
        if (changes === 0) toast.info("That is how it is already; nothing to change.");
        else {
          toast.success(`${words}: ${plural(changes, "change")} in the basket`, {
            action: {
              label: "Take back",
              onClick: () => void apiSend(apiPath("account/edits/take-back"), diff).then(refresh).catch(toastError),
            },
          });
        }
        onTaken?.();
        await refresh();
        return true;
      } catch (error) {
        toastError(error);
        return false;
      }
    },
    [apiPath, refresh, slug, version],
  );
}

"use client";

import { useCallback } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { Diff } from "@/core/kit/diff";
import type { StructureRecord } from "@/core/planogram/structure";
import type { AccountEdit } from "@/server/planogram/account";
import { apiSend, toastError } from "../../_lib/api";
import { useApiPath, useRefresh } from "../../_lib/workspace";

interface Edited {
  changes: number;
  words: string;
  diff: Diff<StructureRecord>;
}

/** Puts an edit of the account into the basket; says so, with a way to take it back. Answers whether it worked. */
export function useEdit(): (edit: AccountEdit) => Promise<boolean> {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return useCallback(
    async (edit) => {
      try {
        const { changes, words, diff } = await apiSend<Edited>(apiPath("account/edits"), edit);
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
    [apiPath, refresh],
  );
}

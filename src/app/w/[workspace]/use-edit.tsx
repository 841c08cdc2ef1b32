"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { toast } from "sonner";
import type { z } from "zod";
import type { editSchema } from "@/core/account/acts";
import { plural } from "@/core/kit/format";
import type { Edited } from "@/server/account/edits";
import { sayDone } from "../../_lib/undo";
import { ApiError, apiSend, toastError } from "../../_lib/api";
import { noteOwnVersion, versionInMind } from "../../_lib/own-versions";
import { versionOnScreen } from "../../_lib/seen";
import { useApiPath, useRefresh, useWorkspace } from "../../_lib/workspace";

/** An edit of the account, as forms make it. */
export type Edit = z.input<typeof editSchema>;

/** What every change of the account answers. */
interface Changed {
  changes: number;
  /** The account's version that has it; left out where a job makes it later. */
  version?: number;
}

/**
 * Sends what changes the account, always with the version that is on screen: what somebody else changed since is not
 * overwritten. There is no other way to send such a thing from a page.
 * @param isForm whether the version counts that was on screen when the form opened, since that is what it was filled in on
 */
export function useChange(isForm = false): <T extends object = Changed>(path: string, body: unknown) => Promise<T> {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const client = useQueryClient();
  const refresh = useRefresh();
  const [opened] = useState(() => (isForm ? versionOnScreen(client, slug) : null));
  return useCallback(
    async <T extends object = Changed>(path: string, body: unknown) => {
      const seen = opened ?? versionOnScreen(client, slug);
      if (seen === null) {
        throw new ApiError(
          { code: "page-unread", message: "The page is still being read. Nothing was changed.", hint: "Try again." },
          0,
        );
      }
      try {
        const done = await apiSend<T>(apiPath(`${path}?version=${versionInMind(slug, seen)}`), body);
        const { changes = 0, version } = done as Partial<Changed>;
        if (changes > 0 && version !== undefined) noteOwnVersion(slug, version);
        return done;
      } catch (error) {
        // What others changed is read anew, so that it can be looked at as it is now.
        if (error instanceof ApiError && error.failure.code === "account-moved") void refresh();
        throw error;
      }
    },
    [apiPath, client, opened, refresh, slug],
  );
}

/**
 * Puts an edit of the account into the basket; says so, with a way to take it back. Answers whether it worked, once the
 * screen shows it.
 * @param isForm as in {@link useChange}
 * @returns takes an edit, and what is to be done as soon as it is in the basket, such as closing a dialog: reading the
 *   figures anew takes seconds in a large account
 */
export function useEdit(isForm = false): (edit: Edit, onTaken?: () => void) => Promise<boolean> {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(isForm);
  return useCallback(
    async (edit, onTaken) => {
      try {
        const { changes, words, leftOut, diff } = await change<Edited>("account/edits", edit);
        if (changes === 0) toast.info("That is how it is already; nothing to change.");
        else {
          const without = leftOut > 0 ? `; ${plural(leftOut, "item")} without a home left out` : "";
          sayDone(`${words}: ${plural(changes, "change")} in the basket${without}`, () =>
            apiSend(apiPath("account/edits/take-back"), diff).then(refresh),
          );
        }
        onTaken?.();
        await refresh();
        return true;
      } catch (error) {
        toastError(error);
        return false;
      }
    },
    [apiPath, change, refresh],
  );
}

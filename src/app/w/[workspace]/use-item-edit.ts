"use client";

import { toast } from "sonner";
import type { z } from "zod";
import type { itemActSchema } from "@/core/account/acts";
import { plural } from "@/core/kit/format";
import { toastError } from "../../_lib/api";
import { useRefresh } from "../../_lib/workspace";
import { useChange, useEdit } from "./use-edit";

/** What a form of an act on items is given. */
export interface ItemFormProps {
  items: string[];
  query: string | null;
  count: number;
  suggestion: string;
  campaign: string | null;
  onClose: () => void;
  onDone: () => void;
}

/** Edits beyond this many items are made by a job: they take longer than one waits for an answer. */
export const MOST_AT_ONCE = 500;

/** Puts an edit of the chosen items into the basket, at once or as a job. `onDone` is called as soon as it is taken. */
export function useItemEdit({
  items,
  query,
  count,
  onDone,
}: Pick<ItemFormProps, "items" | "query" | "count" | "onDone">) {
  const edit = useEdit(true);
  const change = useChange(true);
  const refresh = useRefresh();
  return async (intent: z.input<typeof itemActSchema>): Promise<void> => {
    if (items.length > 0 && items.length <= MOST_AT_ONCE) {
      await edit({ ...intent, items } as Parameters<typeof edit>[0], onDone);
      return;
    }
    const which = query === null ? items : { query: Object.fromEntries(new URLSearchParams(query)) };
    try {
      await change("account/edits/many", { intent, items: which });
      toast.info(`Changing ${plural(count, "item")}. You can go on meanwhile.`);
      onDone();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
}

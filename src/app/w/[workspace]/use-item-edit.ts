"use client";

import { toast } from "sonner";
import type { z } from "zod";
import type { itemIntentSchema } from "@/core/account/intents";
import { plural } from "@/core/kit/format";
import { apiSend, toastError } from "../../_lib/api";
import { useApiPath, useRefresh } from "../../_lib/workspace";
import { useEdit } from "./use-edit";

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
const MOST_AT_ONCE = 500;

/** Puts an edit of the chosen items into the basket, at once or as a job. `onDone` is called as soon as it is taken. */
export function useItemEdit({
  items,
  query,
  count,
  onDone,
}: Pick<ItemFormProps, "items" | "query" | "count" | "onDone">) {
  const edit = useEdit();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return async (intent: z.input<typeof itemIntentSchema>): Promise<void> => {
    if (items.length > 0 && items.length <= MOST_AT_ONCE) {
      await edit({ ...intent, items } as Parameters<typeof edit>[0], onDone);
      return;
    }
    const which = query === null ? items : { query: Object.fromEntries(new URLSearchParams(query)) };
    try {
      await apiSend(apiPath("account/edits/many"), { intent, items: which });
      toast.info(`Changing ${plural(count, "item")}. You can go on meanwhile.`);
      onDone();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
}

"use client";

import { addDays, format } from "date-fns";
import { useState } from "react";
import { toast } from "sonner";
import type { z } from "zod";
import type { itemIntentSchema } from "@/core/account/edits";
import { plural } from "@/core/kit/format";
import { parseMoney } from "@/core/kit/money";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select, TextInput } from "@/ui/field";
import { apiSend, toastError } from "../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../_lib/workspace";
import { ClickPrices } from "./click-prices";
import { useEdit } from "./use-edit";

export type ItemAction = "bid" | "exclude";

const REASONS = ["wasteful", "out of stock", "off-topic", "unsafe"] as const;
const REVIEW_DAYS = 30;

/** The dialog for what is done with chosen items: a bid, or an exclusion. Both go into the basket. */
export function ItemActionDialog({
  action,
  items,
  query = null,
  onClose,
}: {
  action: ItemAction | null;
  items: string[];
  /** The item table's query where all that it finds were chosen. */
  query?: string | null;
  onClose: () => void;
}) {
  return (
    <>
      <Dialog open={action === "bid"} onClose={onClose} title={`Bid for ${plural(items.length, "item")}`}>
        <BidForm items={items} query={query} onClose={onClose} />
      </Dialog>
      <Dialog open={action === "exclude"} onClose={onClose} title={`Exclude ${plural(items.length, "item")}`}>
        <ExcludeForm items={items} query={query} onClose={onClose} />
      </Dialog>
    </>
  );
}

interface FormProps {
  items: string[];
  query: string | null;
  onClose: () => void;
}

/** Edits beyond this many items are made by a job: they take longer than one waits for an answer. */
const MOST_AT_ONCE = 500;

/** Puts an edit of the chosen items into the basket, at once or as a job. Answers whether that worked. */
function useItemEdit({ items, query }: Pick<FormProps, "items" | "query">) {
  const edit = useEdit();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return async (intent: z.input<typeof itemIntentSchema>): Promise<boolean> => {
    if (items.length <= MOST_AT_ONCE) return edit({ ...intent, items } as Parameters<typeof edit>[0]);
    const which = query === null ? items : { query: Object.fromEntries(new URLSearchParams(query)) };
    try {
      await apiSend(apiPath("account/edits/many"), { intent, items: which });
      toast.info(`Changing ${plural(items.length, "item")}. You can go on meanwhile.`);
      await refresh();
      return true;
    } catch (error) {
      toastError(error);
      return false;
    }
  };
}

function BidForm({ items, query, onClose }: FormProps) {
  const { currency } = useWorkspace();
  const edit = useItemEdit({ items, query });
  const [way, setWay] = useState<"percent" | "fixed">("percent");
  const [text, setText] = useState("20");
  const amount = parseMoney(text);
  const percent = Number(text.replace(",", "."));
  const error =
    way === "fixed"
      ? amount.ok && amount.mills > 0
        ? undefined
        : "An amount such as 0.45."
      : Number.isFinite(percent) && percent >= -90 && percent <= 400 && percent !== 0
        ? undefined
        : "A percentage from −90 to 400.";
  const submit = async () => {
    if (error) return;
    const done = await edit(
      way === "fixed" && amount.ok ? { action: "item-bid", bid: amount.mills } : { action: "item-bid-change", percent },
    );
    if (done) onClose();
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <Field label="How">
        {(props) => (
          <Select {...props} value={way} onChange={(event) => setWay(event.target.value as typeof way)}>
            <option value="percent">Change by percent</option>
            <option value="fixed">Set to an amount</option>
          </Select>
        )}
      </Field>
      <Field label={way === "fixed" ? `Bid in ${currency} a click` : "Percent, minus for lower"} error={error}>
        {(props) => <TextInput {...props} autoFocus value={text} onChange={(event) => setText(event.target.value)} />}
      </Field>
      <ClickPrices items={items} />
      <p className="text-sm text-soft">
        Each item gets a bid of its own in the group that serves it first; the other items of that group stay together
        with the bid they have.
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={error !== undefined}>
          Put into the basket
        </Button>
      </div>
    </form>
  );
}

function ExcludeForm({ items, query, onClose }: FormProps) {
  const edit = useItemEdit({ items, query });
  const [reason, setReason] = useState<(typeof REASONS)[number]>("wasteful");
  const [reviewOn, setReviewOn] = useState(() => format(addDays(new Date(), REVIEW_DAYS), "yyyy-MM-dd"));
  const submit = async () => {
    if (await edit({ action: "exclude", reason, reviewOn: reviewOn || null })) onClose();
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <Field label="Reason">
        {(props) => (
          <Select {...props} value={reason} onChange={(event) => setReason(event.target.value as typeof reason)}>
            {REASONS.map((choice) => (
              <option key={choice}>{choice}</option>
            ))}
          </Select>
        )}
      </Field>
      <Field label="Look again on" hint="Empty means never.">
        {(props) => (
          <TextInput {...props} type="date" value={reviewOn} onChange={(event) => setReviewOn(event.target.value)} />
        )}
      </Field>
      <p className="text-sm text-soft">They get no ads in any campaign until you include them again.</p>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit">
          Put into the basket
        </Button>
      </div>
    </form>
  );
}

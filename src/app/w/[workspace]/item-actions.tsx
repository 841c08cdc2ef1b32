"use client";

import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import type { z } from "zod";
import type { itemActSchema } from "@/core/account/acts";
import { plural } from "@/core/kit/format";
import { parseMoney } from "@/core/kit/money";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ChoiceSelect, Field, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import type { AccountView } from "@/server/planogram/workbench";
import { apiSend, toastError, useApi } from "../../_lib/api";
import { useApiPath, useDays, useRefresh, useWorkspace } from "../../_lib/workspace";
import { handOver } from "./experiments/hand-over";
import { ClickPrices } from "./click-prices";
import { SoloForm } from "./solo-form";
import { ItemsStoppedWords } from "./items-stopped";
import { EditEffect } from "./edit-effect";
import type { Edit } from "./use-edit";
import { MOST_AT_ONCE, useItemEdit, type ItemFormProps } from "./use-item-edit";
import { ReasonFields, useUsualReason } from "./reason-fields";

export type ItemAction = "item-bid" | "exclude" | "solo" | "note";

const REVIEW_DAYS = 30;

interface ItemActionProps {
  /** IDs; none where only the query tells which items. */
  items: string[];
  /** The item table's query where all that it finds were chosen. */
  query?: string | null;
  /** How many items that are, where only the query tells which. */
  count?: number;
  /** A name to begin with, for what gets one. */
  suggestion?: string;
  /** The campaign that is looked into, where there is one. */
  campaign?: string | null;
  onClose: () => void;
  onDone?: () => void;
}

const TITLE: Record<ItemAction, (items: string) => string> = {
  "item-bid": (items) => `Bid for ${items}`,
  exclude: (items) => `Exclude ${items}`,
  solo: (items) => `A campaign of their own for ${items}`,
  note: (items) => `Note on ${items}`,
};

/** The dialog for what is done with chosen items: a bid, an exclusion, a campaign of their own, a note. All but notes go into the basket. */
export function ItemActionDialog({ action, ...props }: ItemActionProps & { action: ItemAction | null }) {
  if (action === null) return null;
  const { items, query = null, count = items.length, suggestion = "", campaign = null, onClose, onDone } = props;
  const Form = { "item-bid": BidForm, exclude: ExcludeForm, solo: SoloForm, note: NoteForm }[action];
  const done = () => {
    onDone?.();
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title={TITLE[action](plural(count, "item"))}>
      <Form {...{ items, query, count, suggestion, campaign, onClose, onDone: done }} />
    </Dialog>
  );
}

const BID_WAYS = {
  percent: "Change by percent",
  fixed: "Set to an amount",
  goal: "What a click is worth, towards the goal",
  contribution: "What a click is worth, towards contribution",
} as const;
type BidWay = keyof typeof BID_WAYS;

/** What is typed for each way to begin with. */
const FIRST_TEXT: Record<BidWay, string> = { percent: "20", fixed: "", goal: "50", contribution: "50" };

const isWorth = (way: BidWay) => way === "goal" || way === "contribution";

/** What a bid form asks for, or what is wrong with what was typed. */
function bidAsked(way: BidWay, text: string): { wanted: z.input<typeof itemActSchema> } | { error: string } {
  if (way === "fixed") {
    const amount = parseMoney(text);
    if (!amount.ok || amount.mills <= 0) return { error: "An amount such as 0.45." };
    return { wanted: { action: "item-bid", op: { how: "set", mills: amount.mills } } };
  }
  const percent = Number(text.replace(",", "."));
  if (way === "percent") {
    const isFine = text.trim() !== "" && percent >= -90 && percent <= 400 && percent !== 0;
    if (!isFine) return { error: "A percentage from −90 to 400." };
    return { wanted: { action: "item-bid", op: { how: "percent", percent } } };
  }
  if (!Number.isInteger(percent) || percent < 5 || percent > 400) return { error: "A whole percentage from 5 to 400." };
  return { wanted: { action: "worth-bid", towards: way, most: percent } };
}

function BidForm({ onClose, ...chosen }: ItemFormProps) {
  const { currency } = useWorkspace();
  const edit = useItemEdit(chosen);
  const [way, setWay] = useState<BidWay>("percent");
  const [text, setText] = useState(FIRST_TEXT.percent);
  const asked = bidAsked(way, text);
  const submit = async () => {
    if ("wanted" in asked) await edit(asked.wanted);
  };
  const label =
    way === "fixed"
      ? `Bid in ${currency} a click`
      : isWorth(way)
        ? "Largest step, percent"
        : "Percent, minus for lower";
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
          <ChoiceSelect
            {...props}
            value={way}
            choices={BID_WAYS}
            onChange={(next) => {
              setWay(next);
              setText(FIRST_TEXT[next]);
            }}
          />
        )}
      </Field>
      <Field label={label} error={"error" in asked && text !== "" ? asked.error : undefined}>
        {(props) => <TextInput {...props} autoFocus value={text} onChange={(event) => setText(event.target.value)} />}
      </Field>
      <ClickPrices items={chosen.items} />
      <p className="text-sm text-soft">
        {way === "goal" &&
          "Each item bids the sales that a click on it brings ÷ the goal in force: its campaign’s or the workspace’s, never below break-even. "}
        {way === "contribution" &&
          "Each item bids four fifths of what a click on it leaves after costs; items whose costs are not known stay as they are. "}
        {isWorth(way) &&
          "Sales a click are those of the last 90 days by evidence; of items that nobody clicked, by their kind. "}
        Each item gets a bid of its own in the group that serves it first; the other items of that group stay together
        with the bid they have.
      </p>
      {"wanted" in asked && <ItemsEffect {...chosen} wanted={asked.wanted} />}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={"error" in asked}>
          Put into the basket
        </Button>
      </div>
    </form>
  );
}

function ExcludeForm({ onClose, ...chosen }: ItemFormProps) {
  const { slug } = useWorkspace();
  const edit = useItemEdit(chosen);
  const [campaign, setCampaign] = useState(chosen.campaign ?? "");
  const why = useUsualReason(REVIEW_DAYS);
  const wanted = { action: "exclude" as const, ...why.asked, campaign: campaign === "" ? null : campaign };
  const submit = () => edit(wanted);
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <ReasonFields {...why} />
      <CampaignChoice value={campaign} onChange={setCampaign} />
      <p className="text-sm text-soft">
        {campaign === ""
          ? "They get no ads in any campaign until you let them in again."
          : "Other campaigns that hold them go on, and take over what this one served."}
      </p>
      {chosen.items.length > 0 && (
        <p className="text-sm">
          Not sure?{" "}
          <Link
            className="text-petrol underline"
            href={`/w/${slug}/experiments`}
            onClick={() => handOver({ ready: "trial-exclusion", items: chosen.items })}
          >
            Try it on half of them first
          </Link>
        </p>
      )}
      {chosen.items.length > 0 && <ItemsStoppedWords items={chosen.items} campaign={wanted.campaign} />}
      <ItemsEffect {...chosen} wanted={wanted} />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit">
          Put into the basket
        </Button>
      </div>
    </form>
  );
}

/** What an act on items would change; of more than are worked out while one waits, how it will be told. */
function ItemsEffect({
  items,
  count,
  wanted,
}: Pick<ItemFormProps, "items" | "count"> & { wanted: z.input<typeof itemActSchema> }) {
  if (items.length > 0 && items.length <= MOST_AT_ONCE) return <EditEffect edit={{ ...wanted, items } as Edit} />;
  return (
    <p className="rounded-md bg-raised px-3 py-2 text-sm num">
      {plural(count, "item")}: worked out while you go on; then it is said what changed, and all of it can be taken back
      at once.
    </p>
  );
}

/** Everywhere, or one campaign. */
function CampaignChoice({ value, onChange }: { value: string; onChange: (campaign: string) => void }) {
  const apiPath = useApiPath();
  const [days] = useDays();
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));
  const campaigns = account.data?.lines.filter(({ level }) => level === "campaign") ?? [];
  const choices = [
    { value: "", label: "Everywhere" },
    ...campaigns.map(({ key, name }) => ({ value: key, label: name, group: "Campaigns" })),
  ];
  return (
    <div>
      <span className="mb-1 block text-sm font-medium">Where</span>
      <SearchSelect label="Where" value={value} choices={choices} onChange={onChange} />
    </div>
  );
}

/** A note on each of the items; it is no change of the account and is kept at once. */
function NoteForm({ items, count, onClose, onDone }: ItemFormProps) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [text, setText] = useState("");
  const keep = async () => {
    try {
      await apiSend(apiPath("notes/many"), { lines: items.map((id) => ({ id, text: text.trim() })) });
      toast.success(`Note kept on ${plural(count, "item")}`);
      onDone();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() !== "") void keep();
      }}
    >
      <Field label="Note">
        {(props) => <TextInput {...props} autoFocus value={text} onChange={(event) => setText(event.target.value)} />}
      </Field>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={text.trim() === ""}>
          Keep the note
        </Button>
      </div>
    </form>
  );
}

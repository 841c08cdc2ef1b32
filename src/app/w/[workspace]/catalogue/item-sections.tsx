"use client";

import { X } from "lucide-react";
import { useState } from "react";
import { formatCount, formatMoment, formatShare } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { ItemDetail } from "@/server/across/catalogue/item-detail";
import { Button } from "@/ui/button";
import { Select } from "@/ui/field";
import { apiDelete, apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";

/** What is left of a sale, and the return at which it is used up. */
export function Margin({ item }: { item: ItemDetail }) {
  const { currency } = useWorkspace();
  if (item.cost === null) return null;
  const money = (amount: number | null) => (amount === null ? "–" : formatMoney(amount, currency));
  const figures = [
    ["Item cost", money(item.cost)],
    ["Fee", money(item.fee)],
    ["Margin", formatShare(item.margin)],
    ["Break-even return", item.isLosing ? "none pays" : (item.breakEven?.toFixed(2) ?? "–")],
  ];
  return (
    <section>
      <h3 className="mb-1 font-semibold">Costs</h3>
      <dl className="grid grid-cols-4 gap-3">
        {figures.map(([label, value]) => (
          <div key={label}>
            <dt className="text-xs text-soft">{label}</dt>
            <dd className="font-semibold num">{value}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

/** How price, stock and availability went, one line for each time one of them changed. */
export function PriceHistory({ item }: { item: ItemDetail }) {
  const { currency, timeZone } = useWorkspace();
  const moments = [...item.history].reverse();
  return (
    <section>
      <h3 className="mb-1 font-semibold">Price and stock over time</h3>
      <ul className="space-y-0.5 text-sm num">
        {moments.slice(0, 12).map((moment) => (
          <li key={`${moment.at}/${moment.isGone}`} className="grid grid-cols-[130px_1fr] gap-3">
            <span className="text-soft">{formatMoment(moment.at, timeZone)}</span>
            {moment.isGone ? (
              <b>left the feed</b>
            ) : (
              <span>
                {moment.price !== null && formatMoney(moment.price, currency)}
                {moment.salePrice !== null && `, reduced to ${formatMoney(moment.salePrice, currency)}`}
                {`, ${moment.availability}`}
                {moment.stock !== null && `, ${formatCount(moment.stock)} on hand`}
              </span>
            )}
          </li>
        ))}
      </ul>
      {moments.length === 1 && <p className="text-xs text-soft">It has not changed since it was first read.</p>}
    </section>
  );
}

/** What colleagues know about the item or its family. */
export function NotesOn({ item }: { item: ItemDetail }) {
  const apiPath = useApiPath();
  const { timeZone } = useWorkspace();
  const refresh = useRefresh();
  const [text, setText] = useState("");
  const [kind, setKind] = useState<"item" | "family">("item");
  const add = async () => {
    await apiSend(apiPath("notes"), { kind, key: kind === "item" ? item.id : item.family, text });
    setText("");
    await refresh();
  };
  const remove = async (id: number) => {
    await apiDelete(apiPath(`notes/${id}`));
    await refresh();
  };
  return (
    <section>
      <h3 className="mb-1 font-semibold">Notes</h3>
      <ul className="space-y-1">
        {item.notes.map((note) => (
          <li key={note.id} className="flex items-start gap-2 text-sm">
            <span className="flex-1 break-words whitespace-pre-wrap">
              {note.text}{" "}
              <span className="text-xs text-soft">
                {note.kind === "family" ? "on the family, " : ""}
                {formatMoment(note.at, timeZone)}
              </span>
            </span>
            <button
              type="button"
              aria-label={`Remove the note: ${note.text.slice(0, 30)}`}
              className="rounded p-0.5 text-soft hover:bg-raised"
              onClick={() => void remove(note.id).catch(toastError)}
            >
              <X aria-hidden className="size-3.5" />
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-1 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim() !== "") void add().catch(toastError);
        }}
      >
        <textarea
          aria-label="New note"
          rows={1}
          placeholder="What should a colleague know?"
          className="min-h-8 flex-1 rounded-md border border-line bg-surface px-2 py-1.5 text-sm placeholder:text-soft"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {item.family !== "" && (
          <Select
            aria-label="Note is about"
            className="w-28!"
            value={kind}
            onChange={(event) => setKind(event.target.value as typeof kind)}
          >
            <option value="item">this item</option>
            <option value="family">its family</option>
          </Select>
        )}
        <Button type="submit" disabled={text.trim() === ""}>
          Add
        </Button>
      </form>
    </section>
  );
}

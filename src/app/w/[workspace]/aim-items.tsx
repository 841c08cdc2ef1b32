"use client";

import { useState } from "react";
import { formatCount } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { SuggestedItem } from "@/server/targets/suggest-items";
import { TextInput } from "@/ui/field";
import { ItemTag } from "@/ui/item-tag";
import { useSettled } from "@/ui/use-settled";
import { useApi } from "../../_lib/api";
import { useApiPath, useWorkspace } from "../../_lib/workspace";

/** The items that a target shows, chosen from those that fit or searched for. */
export function AimItems({
  offered,
  told,
  chosen,
  onChange,
}: {
  offered: SuggestedItem[];
  /** The chosen ones as far as they are told. */
  told: SuggestedItem[];
  chosen: string[];
  onChange: (ids: string[]) => void;
}) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const [q, setQ] = useState("");
  const asked = useSettled(q.trim(), 200);
  const searched = useApi<SuggestedItem[]>(
    asked === "" ? null : apiPath(`targets/items?q=${encodeURIComponent(asked)}`),
  );
  // What was chosen stays in sight, whatever is looked for next.
  const [seen, setSeen] = useState<ReadonlyMap<string, SuggestedItem>>(new Map());
  const list = asked === "" ? offered : (searched.data ?? []);
  const known = new Map([...seen, ...[...told, ...list].map((item) => [item.id, item] as const)]);
  const unknown = chosen.filter((id) => !known.has(id));
  const shown = [
    ...chosen.flatMap((id) => known.get(id) ?? []),
    ...list.filter(({ id }) => !chosen.includes(id)).slice(0, 12),
  ];
  return (
    <div>
      <div className="mb-1 flex items-center gap-2">
        <span className="text-sm font-medium">Items to show</span>
        <span className="text-sm text-soft num">{formatCount(chosen.length)} chosen</span>
        <TextInput
          type="search"
          aria-label="Search items"
          placeholder="Search items, or paste IDs"
          className="ml-auto w-48!"
          value={q}
          onChange={(event) => setQ(event.target.value)}
          onPaste={(event) => {
            const ids = event.clipboardData
              .getData("text")
              .split(/[\r\n\t]+/)
              .map((id) => id.trim())
              .filter(Boolean);
            // One line is looked for; a column is chosen, and what no item has is told below.
            if (ids.length < 2) return;
            event.preventDefault();
            onChange([...new Set([...chosen, ...ids])]);
          }}
        />
      </div>
      <ul className="h-56 divide-y divide-line/60 overflow-y-auto rounded-md border border-line">
        {shown.map((item) => (
          <li key={item.id}>
            <label className="flex cursor-pointer items-center gap-2 px-2 py-1 text-sm hover:bg-raised">
              <input
                type="checkbox"
                className="size-4 accent-petrol"
                aria-label={`Show ${item.title}`}
                checked={chosen.includes(item.id)}
                onChange={(event) => {
                  setSeen(new Map([...seen, [item.id, item]]));
                  onChange(event.target.checked ? [...chosen, item.id] : chosen.filter((id) => id !== item.id));
                }}
              />
              <span className="min-w-0 flex-1">
                <ItemTag id={item.id} title={item.title} image={item.image} />
              </span>
              <span className="num">{formatMoney(item.price, currency)}</span>
              <span className="w-24 text-right text-soft num">
                {item.orders > 0 ? `${formatCount(item.orders)} orders` : "no orders"}
              </span>
            </label>
          </li>
        ))}
        {shown.length === 0 && <li className="p-3 text-sm text-soft">No item fits these words; search for one.</li>}
      </ul>
      {unknown.length > 0 && (
        <p role="status" className="mt-1 text-sm text-ember">
          ▾ No item has {unknown.length === 1 ? "this ID" : `these ${formatCount(unknown.length)} IDs`}:{" "}
          {unknown.slice(0, 5).join(", ")}
          {unknown.length > 5 && " …"}{" "}
          <button type="button" className="underline" onClick={() => onChange(chosen.filter((id) => known.has(id)))}>
            Leave them out
          </button>
        </p>
      )}
    </div>
  );
}

"use client";

import { Who } from "@/ui/who";
import { X } from "lucide-react";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import type { BasketChange, BasketView } from "@/server/dispatch/basket";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { Checkbox, Select, TextInput } from "@/ui/field";
import { ItemTag } from "@/ui/item-tag";
import { useSettled } from "@/ui/use-settled";
import { usePages } from "../../../_lib/use-pages";
import { useApiPath } from "../../../_lib/workspace";

const ANY = "\u0000any";
const changesOf = ({ changes }: BasketView) => changes;

/** Every change of the basket, by campaign or by why it was made; picked ones, or all that is found, are taken out again. */
export function BasketList({ onRemove }: { onRemove: (keys: string[] | object) => Promise<void> }) {
  const apiPath = useApiPath();
  const [q, setQ] = useState("");
  const [campaign, setCampaign] = useState(ANY);
  const [cause, setCause] = useState(ANY);
  const [all, setAll] = useState(false);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const words = useSettled(q.trim(), 200);
  const filter = {
    q: words,
    ...(campaign === ANY ? {} : { campaign }),
    ...(cause === ANY ? {} : { cause: Number(cause) }),
    all,
  };
  const query = new URLSearchParams(Object.entries(filter).map(([name, value]) => [name, String(value)]));
  const pages = usePages<BasketView, BasketChange>(
    (offset, limit) => apiPath(`basket?${query}&offset=${offset}&limit=${limit}`),
    changesOf,
  );
  const view = pages.first;
  const isFiltered = words !== "" || campaign !== ANY || cause !== ANY;
  const choice = (set: (value: string) => void) => (event: { target: { value: string } }) => {
    set(event.target.value);
    setSelected(new Set());
  };
  const columns: TableColumn<BasketChange>[] = [
    {
      ...{ key: "change", label: "Change", width: "1fr" },
      cell: ({ text, item, image, refused }) => (
        <span className="flex min-w-0 items-center gap-2" title={item === null ? text : `${text} · ${item}`}>
          {item !== null && <ItemTag id={item} title="" image={image} />}
          <span className="min-w-0">
            <span className="block truncate leading-tight num">{text}</span>
            {refused !== "" ? (
              <span className="block truncate text-xs leading-tight font-semibold text-ember" title={refused}>
                ▾ not taken when sent: {refused}
              </span>
            ) : (
              item !== null && <span className="block truncate text-xs leading-tight text-soft">{item}</span>
            )}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "campaign", label: "Campaign", width: 190 },
      cell: ({ campaignName }) => campaignName || <span className="text-soft">whole workspace</span>,
    },
    {
      ...{ key: "why", label: "Why", width: 250 },
      cell: ({ reason: why, who }) => (
        <span className="text-soft" title={`${why} · ${who}`}>
          {why}
          {who !== "" && (
            <>
              {" "}
              · <Who who={who} />
            </>
          )}
        </span>
      ),
    },
    {
      ...{ key: "out", label: "Out", width: 48 },
      cell: ({ key, text }) => (
        <button
          type="button"
          aria-label={`Take out: ${text}`}
          title="Take out of the basket"
          onClick={(event) => {
            event.stopPropagation();
            void onRemove([key]);
          }}
          className="rounded p-1 text-soft hover:bg-raised"
        >
          <X aria-hidden className="size-3.5" />
        </button>
      ),
    },
  ];
  const takeOut = async (keys: string[] | object) => {
    await onRemove(keys);
    setSelected(new Set());
  };
  return (
    <div className="flex h-120 flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search changes"
          placeholder="Search changes"
          className="w-56!"
          value={q}
          onChange={choice(setQ)}
        />
        <Select aria-label="Campaign" className="w-56!" value={campaign} onChange={choice(setCampaign)}>
          <option value={ANY}>every campaign</option>
          {view?.byCampaign.map(({ key, name, changes }) => (
            <option key={key} value={key}>
              {name} ({formatCount(changes)})
            </option>
          ))}
        </Select>
        <Select aria-label="Why" className="w-56!" value={cause} onChange={choice(setCause)}>
          <option value={ANY}>for every reason</option>
          {view?.byCause.map(({ cause: no, reason: why, changes }) => (
            <option key={no} value={no}>
              {why} ({formatCount(changes)})
            </option>
          ))}
        </Select>
        <Checkbox
          label="also what holds groups together"
          checked={all}
          onChange={(event) => setAll(event.target.checked)}
        />
        <span className="ml-auto flex items-center gap-2 text-sm num">
          {view && plural(view.found, "change")}
          {selected.size > 0 ? (
            <Button onClick={() => void takeOut([...selected])}>Take {formatCount(selected.size)} out</Button>
          ) : (
            isFiltered &&
            view !== undefined &&
            view.found > 0 && <Button onClick={() => void takeOut(filter)}>Take all found out</Button>
          )}
        </span>
      </div>
      <DataTable
        label="Changes"
        columns={columns}
        total={view?.found ?? 0}
        rowAt={pages.rowAt}
        isOld={pages.isOld}
        keyOf={({ key }) => key}
        onRange={pages.onRange}
        rowHeight={42}
        selected={selected}
        onToggle={(key) =>
          setSelected((old) => {
            const next = new Set(old);
            if (!next.delete(key)) next.add(key);
            return next;
          })
        }
        onToggleAll={() => setSelected(selected.size > 0 ? new Set() : new Set(view?.changes.map(({ key }) => key)))}
        isAllSelected={selected.size > 0 && selected.size === view?.found}
        empty={<p className="p-4 text-sm text-soft">No change is like that.</p>}
      />
    </div>
  );
}

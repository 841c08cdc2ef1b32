"use client";

import { keepPreviousData } from "@tanstack/react-query";
import Link from "next/link";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { ChangeKind, ItemChange, Refresh } from "@/server/catalogue/history";
import type { Forgotten } from "@/server/across/catalogue/standings";
import type { RefreshEffect } from "@/server/across/catalogue/refresh-effect";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Loading } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { forgottenFilter, forgottenWords, replanPath } from "../../forgotten";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../../_lib/workspace";
import { Renames } from "./renames";

const PAGE = 50;

const KIND_LABEL: Record<ItemChange["kind"], string> = {
  new: "new",
  returned: "came again",
  changed: "changed",
  "sold-out": "sold out",
  back: "back in stock",
  gone: "gone",
};

/** What one reading changed: the counts, what they do to shelves and structure, and every item with its fields. */
export function RefreshDetail({ refresh }: { refresh: Refresh }) {
  const { counts, isFirst } = refresh;
  const [kind, setKind] = useState<ChangeKind | "all">("all");
  const [page, setPage] = useState(0);
  const apiPath = useApiPath();
  const items = useApi<{ total: number; changes: ItemChange[] }>(
    isFirst ? null : apiPath(`refreshes/${refresh.id}/items?kind=${kind}&limit=${PAGE}&offset=${page * PAGE}`),
    { placeholderData: keepPreviousData },
  );
  const figures: [kind: ChangeKind | "all", label: string, count: number][] = [
    ["new", "New", counts.new],
    ["changed", "Changed", counts.changed],
    ["sold-out", "Sold out", counts.soldOut ?? 0],
    ["back", "Back", (counts.backInStock ?? 0) + (counts.returned ?? 0)],
    ["gone", "Gone", counts.gone],
  ];
  const fields = Object.entries(counts.fields ?? {}).sort((a, b) => b[1] - a[1]);
  return (
    <div className="space-y-3">
      <Surface title="What it changed">
        <div className="grid grid-cols-6 gap-3">
          {figures.map(([key, label, count]) => (
            <button
              key={key}
              type="button"
              disabled={isFirst || count === 0}
              aria-pressed={kind === key}
              onClick={() => {
                setPage(0);
                setKind(kind === key ? "all" : key);
              }}
              className={cx(
                "rounded-md border px-3 py-1.5 text-left num enabled:hover:bg-raised",
                kind === key ? "border-petrol bg-petrol-wash" : "border-line",
              )}
            >
              <span className="block text-xs text-soft">{label}</span>
              <span className="font-display text-xl font-semibold">{formatCount(count)}</span>
            </button>
          ))}
          <div className="px-3 py-1.5 num">
            <span className="block text-xs text-soft">As before</span>
            <span className="font-display text-xl font-semibold">{formatCount(counts.unchanged)}</span>
          </div>
        </div>
        {fields.length > 0 && (
          <p className="mt-3 text-sm num">
            By field: {fields.map(([name, count]) => `${name} ${formatCount(count)}`).join(", ")}.
          </p>
        )}
        {refresh.notices.map((notice) => (
          <p key={notice} className="mt-2 rounded-md bg-petrol-wash px-3 py-1.5 text-sm">
            {notice}
          </p>
        ))}
      </Surface>
      {!isFirst && <Effect id={refresh.id} />}
      {isFirst ? (
        <p className="text-sm text-soft">The first reading: every item was new.</p>
      ) : (
        <Surface
          title={kind === "all" ? "Items" : `Items: ${figures.find(([key]) => key === kind)?.[1].toLowerCase()}`}
          aside={items.data && <span className="text-sm text-soft num">{plural(items.data.total, "item")}</span>}
        >
          {items.isPending && <Loading what="the items" />}
          <table className="w-full text-sm">
            <tbody>
              {items.data?.changes.map((change) => (
                <ChangeRow key={`${change.id}/${change.kind}`} change={change} />
              ))}
            </tbody>
          </table>
          {items.data && items.data.total > PAGE && (
            <div className="mt-3 flex items-center gap-2 text-sm num">
              <Button disabled={page === 0} onClick={() => setPage(page - 1)}>
                Before
              </Button>
              {page * PAGE + 1} to {Math.min(items.data.total, (page + 1) * PAGE)}
              <Button disabled={(page + 1) * PAGE >= items.data.total} onClick={() => setPage(page + 1)}>
                Next
              </Button>
            </div>
          )}
        </Surface>
      )}
    </div>
  );
}

function ChangeRow({ change }: { change: ItemChange }) {
  const { slug } = useWorkspace();
  return (
    <tr className="border-b border-line/70 align-top">
      <td className="w-28 py-1.5 pr-3">
        <b>{KIND_LABEL[change.kind]}</b>
      </td>
      <td className="w-64 py-1.5 pr-3">
        {change.kind === "gone" ? (
          change.title
        ) : (
          <Link
            className="text-petrol hover:underline"
            href={`/w/${slug}/catalogue?item=${encodeURIComponent(change.id)}`}
          >
            {change.title}
          </Link>
        )}
        <span className="block font-mono text-xs text-soft">{change.id}</span>
      </td>
      <td className="py-1.5">
        {change.fields.map(({ field, from, to }) => (
          <span key={field} className="block break-words">
            <span className="text-soft">{field}:</span> {from || "–"} → <b>{to || "–"}</b>
          </span>
        ))}
      </td>
    </tr>
  );
}

/** Items without a home now, by why, with the way to plan them in. */
function WithoutHome() {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const forgotten = useApi<Forgotten>(apiPath("forgotten")).data;
  if (!forgotten || forgotten.total === 0) return null;
  return (
    <p className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1 rounded-md bg-petrol-wash px-3 py-2 text-sm num">
      <span className="flex-1">
        <b>{plural(forgotten.total, "item")} without a home:</b> {forgottenWords(forgotten)}.
      </span>
      <Link className="text-petrol hover:underline" href={`/w/${slug}/catalogue?${forgottenFilter(forgotten)}`}>
        See them
      </Link>
      <Link className="text-petrol hover:underline" href={`/w/${slug}/${replanPath(forgotten)}`}>
        Plan them in
      </Link>
    </p>
  );
}

function Effect({ id }: { id: number }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const effect = useApi<RefreshEffect>(apiPath(`refreshes/${id}/effect`)).data;
  if (!effect)
    return <Surface title="What that does to shelves and structure">{<Loading what="the effect" />}</Surface>;
  const { newItems, soldOut, gone, movedBySplit } = effect;
  const lines = [
    newItems.total > 0 &&
      `${plural(newItems.total, "new item")}: ${newItems.withoutHome === 0 ? "all have a home" : `${formatCount(newItems.withoutHome)} without a home`}${newItems.byShelf.length > 0 ? `; ${newItems.byShelf.map(({ items, shelf, set }) => `${formatCount(items)} on “${shelf}” of ${set}`).join(", ")}` : ""}.`,
    soldOut.total > 0 &&
      `${plural(soldOut.total, "item")} sold out: ${formatCount(soldOut.stillServed)} still served${soldOut.spend > 0 ? `, with ${formatMoney(soldOut.spend, currency)} spent in 30 days` : ""}.`,
    gone.total > 0 &&
      `${plural(gone.total, "item")} gone: ${gone.namedInStructure === 0 ? "none named in the structure" : `${formatCount(gone.namedInStructure)} named in groups or exclusions that now stand for nothing`}.`,
    ...movedBySplit.map(
      ({ field, items }) =>
        `${plural(items, "item")} changed ${field.toLowerCase()}, which the structure splits by: they are served where a group is named for the new value, and else by no one.`,
    ),
  ].filter((line): line is string => typeof line === "string");
  return (
    <Surface title="What that does to shelves and structure">
      <WithoutHome />
      <Renames id={id} />
      {lines.length === 0 ? (
        <p className="text-sm text-soft">Nothing: no item came, went, sold out, or changed a field that is split by.</p>
      ) : (
        <ul className="space-y-1 text-sm num">
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
    </Surface>
  );
}

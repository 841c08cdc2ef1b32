"use client";

import { Download } from "lucide-react";
import { parseAsStringLiteral, useQueryState } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { KeptOut, SpanSums } from "@/server/exclusions/kept-out";
import { Button, buttonClasses } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { Who } from "@/ui/who";
import { toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { PickBar } from "../pick-bar";
import { useList } from "../use-list";
import { EditKept } from "./edit-kept";
import { KeepOut } from "./keep-out";
import { ExclusionsTabs } from "./tabs";
import { useChange } from "../use-edit";

const SHOWN = {
  all: "all",
  due: "to look at again now",
  item: "items",
  term: "terms",
  listing: "listings",
  placement: "placements",
} as const;

/** What an entry brought or cost a day before and since, mills; null where that is not known. */
function aDay(span: SpanSums | null, key: "cost" | "revenue"): number | null {
  const sum = span?.[key];
  return span && sum != null ? sum / span.days : null;
}

/** What it was a day in the thirty days before it held, less what it was since. */
function lessADay({ before, after }: KeptOut, key: "cost" | "revenue"): number | null {
  const [had, has] = [aDay(before, key), aDay(after, key)];
  return had === null || has === null ? null : had - has;
}
const savedADay = (entry: KeptOut) => lessADay(entry, "cost");
const lostADay = (entry: KeptOut) => lessADay(entry, "revenue");

/** Everything that is kept out, with why, who, since when, and what that saved or cost; due ones first. */
export default function ExclusionsPage() {
  const { currency, slug } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange();
  useOwnWindow("Against the 30 days before");
  const [shown, setShown] = useQueryState(
    "shown",
    parseAsStringLiteral(Object.keys(SHOWN) as (keyof typeof SHOWN)[]).withDefault("all"),
  );
  const [doing, setDoing] = useState<"edit" | "new" | null>(null);
  const kept = useApi<{ version: number; entries: KeptOut[] }>(apiPath("kept-out"));
  const money = (mills: number | null) => (mills === null ? "–" : formatMoney(mills, currency));
  const rows = (kept.data?.entries ?? []).filter(
    ({ what, isDue }) => shown === "all" || (shown === "due" ? isDue : what === shown),
  );
  const list = useList({
    rows,
    keyOf: ({ key }) => key,
    textOf: ({ value, title, scopeName, reason, who }) => `${value} ${title} ${scopeName} ${reason} ${who}`,
    sorts: {
      value: ({ value }) => value,
      reason: ({ reason }) => reason,
      review: ({ reviewOn }) => reviewOn,
      since: ({ since }) => since,
      before: ({ before }) => aDay(before, "cost"),
      clicks: ({ after }) => after && (after.clicks ?? after.impressions),
      saved: savedADay,
      lost: lostADay,
    },
    copy: [
      { heading: "kind", of: ({ what }) => what },
      { heading: "value", of: ({ value }) => value },
      { heading: "match", of: ({ match }) => match },
      { heading: "title", of: ({ title }) => title },
      { heading: "where", of: ({ scopeName }) => scopeName },
      { heading: "reason", of: ({ reason }) => reason },
      { heading: "look again", of: ({ reviewOn }) => reviewOn },
      { heading: "since", of: ({ since }) => since },
      { heading: "who", of: ({ who }) => who },
      { heading: "saved a day", of: (entry) => toUnitsOrNull(savedADay(entry)) },
      { heading: "sales missed a day", of: (entry) => toUnitsOrNull(lostADay(entry)) },
    ],
  });
  if (kept.error || !kept.data) {
    return (
      <PageWaiting title="Exclusions" what="what is kept out" error={kept.error}>
        <ExclusionsTabs />
      </PageWaiting>
    );
  }
  const { entries } = kept.data;
  const due = entries.filter(({ isDue }) => isDue).length;
  const takeBack = async () => {
    try {
      const remove = list.picked.map(({ key }) => key);
      const body = { remove, reason: "No longer kept out" };
      const { changes } = await change("account/records", body);
      toast.success(`${plural(changes, "change")} in the basket`);
      list.clear();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const columns: TableColumn<KeptOut>[] = [
    { key: "value", label: "Kept out", width: "1fr", sort: "value", cell: (entry) => <KeptName entry={entry} /> },
    { key: "where", label: "Where", width: 120, cell: ({ scopeName }) => <span title={scopeName}>{scopeName}</span> },
    { key: "reason", label: "Why", width: 84, sort: "reason", cell: ({ reason }) => reason },
    {
      ...{ key: "review", label: "Look again", width: 96, sort: "review" },
      cell: ({ reviewOn, isDue }) => (
        <span className={isDue ? "font-semibold text-ember num" : "num"}>{reviewOn ?? "never"}</span>
      ),
    },
    {
      ...{ key: "since", label: "Since", width: 104, sort: "since" },
      cell: ({ since, who }) => (
        <span>
          <span className="block leading-tight num">{since ?? "not sent"}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            <Who who={who} />
          </span>
        </span>
      ),
    },
    {
      ...{ key: "before", label: "Spend before", width: 96, align: "right", sort: "before" },
      about: "A day, in the thirty days before it held.",
      cell: ({ before }) => money(aDay(before, "cost")),
    },
    {
      ...{ key: "clicks", label: "Clicks since", width: 88, align: "right", sort: "clicks" },
      about: "None where it bites; impressions where a report tells no clicks.",
      cell: ({ after }) => <StillThere after={after} />,
    },
    {
      ...{ key: "saved", label: "Saved a day", width: 90, align: "right", sort: "saved" },
      about: "Spend a day before, less spend a day since.",
      cell: (entry) => money(savedADay(entry)),
    },
    {
      ...{ key: "lost", label: "Sales missed", width: 98, align: "right", sort: "lost" },
      about: "Ad sales a day before, less those a day since. What else sold instead is not in it.",
      cell: (entry) => money(lostADay(entry)),
    },
  ];
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Exclusions"
        facts={`${plural(entries.length, "entry", "entries")}${due > 0 ? `, ${formatCount(due)} to look at again` : ""}`}
      >
        {entries.length > 0 && (
          <>
            <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/kept-out.csv`} download>
              <Download aria-hidden className="size-3.5" /> CSV
            </a>
            <Button look="ember" onClick={() => setDoing("new")}>
              Keep more out
            </Button>
          </>
        )}
      </PageHead>
      <ExclusionsTabs />
      {entries.length === 0 ? (
        <EmptyNote
          title="Nothing is kept out yet"
          action={
            <Button look="ember" onClick={() => setDoing("new")}>
              Keep something out
            </Button>
          }
        >
          Items, terms, listings and placements that only cost are kept out here, under Results, or in the catalogue;
          each with a reason and a day to look again.
        </EmptyNote>
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <TextInput
              type="search"
              aria-label="Search what is kept out"
              placeholder="Search  ( / )"
              className="w-64!"
              {...list.search}
            />
            <ChoiceSelect
              aria-label="Shown"
              className="w-48!"
              value={shown}
              onChange={(next) => void setShown(next)}
              choices={SHOWN}
            />
            <span className="text-sm text-soft num">{plural(list.found.length, "entry", "entries")}</span>
          </div>
          {list.picked.length > 0 && (
            <PickBar
              label={`${plural(list.picked.length, "entry", "entries")} picked`}
              onCopy={list.copyRows}
              onClear={list.clear}
            >
              <Button onClick={() => setDoing("edit")}>Reason and day</Button>
              <Button onClick={() => void takeBack()}>Let in again</Button>
            </PickBar>
          )}
          <DataTable
            label="Kept out"
            columns={columns}
            rowHeight={44}
            empty={<p className="p-4 text-sm text-soft">No entry is like that.</p>}
            {...list.table}
          />
        </>
      )}
      {doing === "edit" && <EditKept entries={list.picked} onClose={() => setDoing(null)} onDone={list.clear} />}
      {doing === "new" && <KeepOut onClose={() => setDoing(null)} />}
    </div>
  );
}

/** What still comes through: clicks, or impressions where clicks are not reported. */
function StillThere({ after }: Pick<KeptOut, "after">) {
  const count = after && (after.clicks ?? after.impressions);
  if (after === null || count === null) return "–";
  return (
    <span className={count > 0 ? "font-semibold text-ember" : ""}>
      {formatCount(count)}
      {after.clicks === null && " shown"}
    </span>
  );
}

function toUnitsOrNull(mills: number | null): number | null {
  return mills === null ? null : toUnits(Math.round(mills));
}

function KeptName({ entry: { what, match, value, title, since } }: { entry: KeptOut }) {
  return (
    <span className="block min-w-0" title={title || value}>
      <span className="flex items-center gap-1.5 leading-tight">
        <span className="truncate">{title || value}</span>
        {since === null && <span className="rounded bg-petrol-wash px-1 text-xs text-petrol">not sent</span>}
      </span>
      <span className="block truncate text-xs leading-tight text-soft">
        {what}
        {match && `, ${match}`}
        {title && ` · ${value}`}
      </span>
    </span>
  );
}

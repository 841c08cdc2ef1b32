"use client";

import { useQueryStates } from "nuqs";
import { useState } from "react";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import { POOL_ORIGINS } from "@/core/targets/keyword-pool";
import type { KeywordLine, KeywordPool } from "@/server/targets/keyword-desk";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { Checkbox, ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { SearchSelect } from "@/ui/search-select";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { AimDialog } from "../../aim-dialog";
import { PickBar } from "../../pick-bar";
import { useList } from "../../use-list";
import { NoteDialog } from "../ledger/note-dialog";
import { useDecideAgainst } from "../use-decide-against";
import { NewTargets } from "../new-targets";
import { TargetsTabs } from "../tabs";
import { BRANDS, keywordsPath, keywordsState } from "./asks";

type Doing = "aim" | "note" | "paste";

/** The pool of keywords of a category: what people search for, what was found in results and titles, what it costs, and where it is used. */
export default function KeywordsPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const decideAgainst = useDecideAgainst();
  useOwnWindow("Results of the last 180 days");
  const [{ category, q, brands, free }, setAsked] = useQueryStates(keywordsState);
  const pool = useApi<KeywordPool>(apiPath(keywordsPath({ category })), { placeholderData: (before) => before });
  const [doing, setDoing] = useState<Doing | null>(null);
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = (pool.data?.lines ?? []).filter(
    ({ text, entry, isOwnBrand }) =>
      words.every((word) => text.toLowerCase().includes(word)) &&
      (brands === "all" || isOwnBrand === (brands === "own")) &&
      (!free || entry === null || entry.state === "retired"),
  );
  const list = useList({
    rows,
    keyOf: ({ key }) => key,
    textOf: ({ text }) => text,
    sorts: {
      text: ({ text }) => text,
      relevance: ({ relevance }) => relevance,
      views: ({ monthlyViews }) => monthlyViews,
      typical: ({ typical }) => typical,
      clicks: ({ clicks }) => clicks,
      orders: ({ orders }) => orders,
    },
    copy: [
      { heading: "term", of: ({ text }) => text },
      { heading: "fits", of: ({ relevance }) => relevance },
      { heading: "views a month", of: ({ monthlyViews }) => monthlyViews },
      ...(["low", "typical", "high"] as const).map((price) => ({
        heading: `CPC ${price}`,
        of: (line: KeywordLine) => (line[price] === null ? null : toUnits(line[price])),
      })),
      { heading: "clicks", of: ({ clicks }) => clicks },
      { heading: "orders", of: ({ orders }) => orders },
      { heading: "state", of: ({ entry }) => entry?.state ?? "" },
    ],
  });
  if (pool.error || !pool.data) {
    return (
      <PageWaiting title="Keywords" what="the keywords" error={pool.error}>
        <TargetsTabs />
      </PageWaiting>
    );
  }
  const { categories, items, looked, lines } = pool.data;
  const shown = category || (categories[0]?.name ?? "");
  const picked = list.picked;
  const close = () => setDoing(null);
  const note = async (reason: string) => {
    const places = picked.map(({ text }) => ({ what: "term" as const, text }));
    if (!(await decideAgainst(places, reason))) return;
    close();
    list.clear();
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Keywords"
        facts={`${plural(lines.length, "candidate")} for ${plural(items, "item")}${looked < items ? `, of which ${formatCount(looked)} were looked at` : ""}`}
      >
        <Button onClick={() => setDoing("paste")}>Paste terms</Button>
      </PageHead>
      <TargetsTabs />
      {categories.length === 0 ? (
        <EmptyNote title="Keywords will stand here">
          Read a feed in first: candidates come from its categories and titles.
        </EmptyNote>
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <span className="w-72">
              <SearchSelect
                label="Category"
                value={shown}
                choices={categories.map(({ name, items: count }) => ({
                  value: name,
                  label: `${name || "no category"} (${formatCount(count)})`,
                }))}
                onChange={(next) => {
                  void setAsked({ category: next });
                  list.clear();
                }}
              />
            </span>
            <TextInput
              type="search"
              aria-label="Search keywords"
              placeholder="Search keywords  ( / )"
              className="w-52!"
              value={q}
              onChange={({ target }) => void setAsked({ q: target.value || null })}
            />
            <ChoiceSelect
              aria-label="Brands"
              className="w-52!"
              value={brands}
              choices={BRANDS}
              onChange={(next) => void setAsked({ brands: next })}
            />
            <Checkbox
              label="Only what is free"
              checked={free}
              onChange={({ target }) => void setAsked({ free: target.checked })}
            />
            <span className="text-sm text-soft num">{plural(list.found.length, "candidate")}</span>
          </div>
          {picked.length > 0 && (
            <PickBar label={`${plural(picked.length, "term")} picked`} onCopy={list.copyRows} onClear={list.clear}>
              <Button onClick={() => setDoing("aim")}>Aim at them</Button>
              <Button onClick={() => setDoing("note")}>Decide against …</Button>
            </PickBar>
          )}
          <DataTable
            label="Keywords"
            columns={columnsOf(currency)}
            rowHeight={44}
            empty={<p className="p-4 text-sm text-soft">No candidate is like that.</p>}
            {...list.table}
          />
        </>
      )}
      {doing === "aim" && (
        <AimDialog
          start={{
            ...{ what: "keyword", values: picked.map(({ text }) => text) },
            purpose: picked.every(({ isOwnBrand }) => isOwnBrand) ? "defend" : "rank",
          }}
          onClose={close}
          onDone={list.clear}
        />
      )}
      {doing === "note" && <NoteDialog count={picked.length} onKeep={note} onClose={close} />}
      {doing === "paste" && <NewTargets onClose={close} />}
    </div>
  );
}

function columnsOf(currency: string): TableColumn<KeywordLine>[] {
  const money = (mills: number | null) => (mills === null ? "–" : formatMoney(mills, currency));
  return [
    {
      ...{ key: "text", label: "Term", width: "1fr", sort: "text" },
      cell: ({ text, origins, isOwnBrand }) => (
        <span className="block min-w-0" title={`${text}: ${origins.map((origin) => POOL_ORIGINS[origin]).join("; ")}`}>
          <span className="block truncate leading-tight">{text}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {origins.join(", ")}
            {isOwnBrand && " · our brand"}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "relevance", label: "Fits", width: 70, align: "right", sort: "relevance" },
      cell: ({ relevance }) => (
        <span title="Share of the items that have each of its words in title, brand or category">
          {formatShare(relevance)}
        </span>
      ),
    },
    {
      ...{ key: "views", label: "Views a month", width: 110, align: "right", sort: "views" },
      cell: ({ monthlyViews }) => (monthlyViews === null ? "–" : formatCount(monthlyViews)),
    },
    {
      ...{ key: "typical", label: "Click costs", width: 150, align: "right", sort: "typical" },
      cell: ({ low, typical, high }) => (
        <span>
          <span className="block leading-tight">{money(typical)}</span>
          {low !== null && high !== null && (
            <span className="block text-[11px] leading-tight text-soft">
              {money(low)} to {money(high)}
            </span>
          )}
        </span>
      ),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 76, align: "right", sort: "clicks" },
      cell: ({ clicks }) => (clicks === 0 ? "–" : formatCount(clicks)),
    },
    {
      ...{ key: "orders", label: "Orders", width: 76, align: "right", sort: "orders" },
      cell: ({ orders, clicks }) => (clicks === 0 ? "–" : formatCount(orders)),
    },
    {
      ...{ key: "use", label: "Use", width: 190 },
      cell: ({ entry }) =>
        entry && (
          <span className="block min-w-0" title={entry.reason}>
            <span className="block truncate leading-tight">{entry.state}</span>
            <span className="block truncate text-xs leading-tight text-soft">
              {[entry.since && `since ${entry.since}`, entry.where.join(", "), entry.reason]
                .filter(Boolean)
                .join(" · ")}
            </span>
          </span>
        ),
    },
  ];
}

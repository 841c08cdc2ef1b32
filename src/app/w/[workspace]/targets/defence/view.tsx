"use client";

import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { DefenceLine, DefenceView } from "@/server/targets/defence";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { AimDialog } from "../../aim-dialog";
import { PickBar } from "../../pick-bar";
import { useList } from "../../use-list";
import { TargetsTabs } from "../tabs";

const SHOWN = {
  all: "pages and brand searches",
  page: "our pages",
  brand: "searches with our brands",
  open: "hardly shown there",
  named: "defended by name",
} as const;

/** Impressions a view from which a place counts as held. */
const HELD = 0.2;

/** Our own pages and brand searches: how much we stand there, what that costs, and what defends them. */
export default function DefencePage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("The last 180 days");
  const defence = useApi<DefenceView>(apiPath("defence"));
  const [shown, setShown] = useState<keyof typeof SHOWN>("all");
  const [isAiming, setAiming] = useState(false);
  const rows = (defence.data?.lines ?? []).filter((line) => isShown(line, shown));
  const list = useList({
    rows,
    keyOf: ({ key }) => key,
    textOf: ({ place, title }) => `${place} ${title}`,
    sorts: {
      place: ({ place, title }) => title || place,
      views: ({ monthlyViews }) => monthlyViews,
      share: ({ share }) => share,
      cost: ({ cost }) => cost,
      orders: ({ orders }) => orders,
      revenue: ({ revenue }) => revenue,
    },
    copy: [
      { heading: "page or search", of: ({ place }) => place },
      { heading: "kind", of: ({ what }) => what },
      { heading: "title", of: ({ title }) => title },
      { heading: "views a month", of: ({ monthlyViews }) => monthlyViews },
      { heading: "shown a view", of: ({ share }) => share },
      { heading: "spend", of: ({ cost }) => toUnits(cost) },
      { heading: "orders", of: ({ orders }) => orders },
      { heading: "ad sales", of: ({ revenue }) => toUnits(revenue) },
      { heading: "campaigns", of: ({ campaigns }) => campaigns.join(", ") },
    ],
  });
  if (defence.error || !defence.data) {
    return (
      <PageWaiting title="Defence" what="our own pages" error={defence.error}>
        <TargetsTabs />
      </PageWaiting>
    );
  }
  const { lines, days } = defence.data;
  const count = (what: DefenceLine["what"]) => lines.filter((line) => line.what === what).length;
  const picked = list.picked;
  const kinds = new Set(picked.map(({ what }) => what));
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Defence"
        facts={`${plural(count("page"), "page")} of our own and ${plural(count("brand"), "search", "searches")} with our brands, ${formatCount(lines.filter((line) => isShown(line, "open")).length)} on which we hardly show in ${plural(days, "day")}`}
      />
      <TargetsTabs />
      {lines.length === 0 ? (
        <EmptyNote title="Nothing of our own is known yet">
          Our pages and brand searches come from the channel, from a rate card, and from results.
        </EmptyNote>
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <TextInput
              type="search"
              aria-label="Search our own"
              placeholder="Search our own  ( / )"
              className="w-56!"
              {...list.search}
            />
            <ChoiceSelect
              aria-label="Which are shown"
              className="w-56!"
              value={shown}
              onChange={setShown}
              choices={SHOWN}
            />
            <span className="text-sm text-soft num">{plural(list.found.length, "line")}</span>
          </div>
          <p className="max-w-4xl text-sm text-soft">
            What share of these sales would have come without an ad is not known: it takes days without one to tell.
            Links to the other items of a family on a page hold it for nothing.
          </p>
          {picked.length > 0 && (
            <PickBar label={`${plural(picked.length, "line")} picked`} onCopy={list.copyRows} onClear={list.clear}>
              <Button
                disabled={kinds.size > 1}
                title={kinds.size > 1 ? "Pages and searches go into campaigns of their own: pick one kind" : undefined}
                onClick={() => setAiming(true)}
              >
                Defend …
              </Button>
            </PickBar>
          )}
          <DataTable
            label="Our own"
            columns={columnsOf(currency)}
            rowHeight={44}
            empty={<p className="p-4 text-sm text-soft">Nothing of our own is like that.</p>}
            {...list.table}
          />
        </>
      )}
      {isAiming && (
        <AimDialog
          start={{
            ...{ values: picked.map(({ place }) => place), purpose: "defend" },
            what: picked[0]?.what === "brand" ? "keyword" : "listing",
            items: picked[0]?.what === "page" ? picked.map(({ place }) => place).slice(0, 20) : [],
          }}
          onClose={() => setAiming(false)}
          onDone={list.clear}
        />
      )}
    </div>
  );
}

function isShown({ what, share, entry }: DefenceLine, shown: keyof typeof SHOWN): boolean {
  if (shown === "open") return share !== null && share < HELD;
  if (shown === "named") return entry !== null && ["in use", "waiting"].includes(entry.state);
  return shown === "all" || what === shown;
}

function columnsOf(currency: string): TableColumn<DefenceLine>[] {
  const money = (mills: number) => formatMoney(mills, currency);
  return [
    {
      ...{ key: "place", label: "Page or search", width: "1fr", sort: "place" },
      cell: ({ place, title, what }) => (
        <span className="block min-w-0" title={title ? `${place}: ${title}` : place}>
          <span className="block truncate leading-tight">{title || place}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {what === "page" ? `our page · ${place}` : "search with our brand"}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "views", label: "Views a month", width: 112, align: "right", sort: "views" },
      cell: ({ monthlyViews }) => (monthlyViews === null ? "–" : formatCount(monthlyViews)),
    },
    {
      ...{ key: "share", label: "Shown a view", width: 108, align: "right", sort: "share" },
      cell: ({ share }) => (
        <span
          title="Our impressions over the views of as many days; ads in several slots of one view count each"
          className={share !== null && share < HELD ? "text-ember" : ""}
        >
          {share === null ? "–" : share.toFixed(2)}
        </span>
      ),
    },
    {
      ...{ key: "cost", label: "Spend", width: 90, align: "right", sort: "cost" },
      cell: ({ cost, clicks, typicalCpc }) => (
        <span>
          <span className="block leading-tight">{money(cost)}</span>
          <span className="block text-[11px] leading-tight text-soft">
            {clicks > 0
              ? `${money(Math.round(cost / clicks))} a click`
              : typicalCpc !== null
                ? `typical ${money(typicalCpc)}`
                : ""}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "orders", label: "Orders", width: 76, align: "right", sort: "orders" },
      cell: ({ orders }) => formatCount(orders),
    },
    {
      ...{ key: "revenue", label: "Ad sales", width: 96, align: "right", sort: "revenue" },
      cell: ({ revenue }) => money(revenue),
    },
    {
      ...{ key: "who", label: "Who of ours stands there", width: 250 },
      cell: ({ campaigns, entry }) => (
        <span className="block min-w-0" title={campaigns.join("\n")}>
          <span className="block truncate leading-tight">
            {campaigns.length === 0 ? "nobody" : campaigns.join(", ")}
          </span>
          <span className="block truncate text-xs leading-tight text-soft">
            {entry
              ? `${entry.state} by name${entry.where.length > 0 ? `: ${entry.where.join(", ")}` : ""}`
              : "not aimed at by name"}
          </span>
        </span>
      ),
    },
  ];
}

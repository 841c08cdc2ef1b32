"use client";

import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { PageWorkLine } from "@/server/bids/page-work";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead, WaitingRows } from "@/ui/page";
import { useRouter } from "next/navigation";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { useList } from "../../use-list";
import { BidsTabs } from "../tabs";

/** Items that people come to and don't buy: their pages need work, which no lower bid does. */
export default function PageWorkPage() {
  const { currency, slug } = useWorkspace();
  const apiPath = useApiPath();
  const router = useRouter();
  useOwnWindow("The last 180 days");
  const work = useApi<PageWorkLine[]>(apiPath("page-work"));
  const list = useList({
    rows: work.data ?? [],
    keyOf: ({ id }) => id,
    textOf: ({ id, title, category, missing, thin }) =>
      `${id} ${title} ${category} ${missing.join(" ")} ${thin.join(" ")}`,
    sorts: {
      title: ({ title }) => title,
      clicks: ({ clicks }) => clicks,
      orders: ({ orders }) => orders,
      usual: ({ usual }) => usual,
      lost: ({ lost }) => lost,
    },
    copy: [
      { heading: "id", of: ({ id }) => id },
      { heading: "title", of: ({ title }) => title },
      { heading: "category", of: ({ category }) => category },
      { heading: "clicks", of: ({ clicks }) => clicks },
      { heading: "orders", of: ({ orders }) => orders },
      { heading: "orders as its kind", of: ({ usual }) => Number(usual.toFixed(1)) },
      { heading: "missed a month", of: ({ lost }) => (lost === null ? null : toUnits(Math.round(lost))) },
      { heading: "missing", of: ({ missing }) => missing.join(", ") },
      { heading: "thin", of: ({ thin }) => thin.join(", ") },
    ],
  });
  const head = (
    <>
      <PageHead
        title="Bids"
        {...(work.data && {
          facts: `${plural(work.data.length, "item")} with good traffic that few buy, beside others of their kind`,
        })}
      >
        {list.found.length > 0 && <Button onClick={list.copyRows}>Copy the list</Button>}
      </PageHead>
      <BidsTabs />
    </>
  );
  if (work.error) {
    return (
      <div className="space-y-3">
        {head}
        <ErrorNote error={work.error.failure} />
      </div>
    );
  }
  if (!work.data) {
    return (
      <div className="space-y-3">
        {head}
        <WaitingRows />
      </div>
    );
  }
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      {head}
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search items"
          placeholder="Search items  ( / )"
          className="w-56!"
          {...list.search}
        />
        <span className="text-sm text-soft">
          A lower bid would only hide it. What is missing or much shorter than at its neighbours is named; price and
          stock may be it as well.
        </span>
      </div>
      <DataTable
        label="Items whose pages need work"
        columns={columnsFor(currency)}
        rowHeight={48}
        {...list.table}
        onOpen={({ id }) => router.push(`/w/${slug}/catalogue?item=${encodeURIComponent(id)}`)}
        empty={
          <EmptyNote title="No page stands out">
            No item with enough clicks brings so few orders that it could not be chance. The house rules say from how
            many clicks on it is looked at.
          </EmptyNote>
        }
      />
    </div>
  );
}

function columnsFor(currency: string): TableColumn<PageWorkLine>[] {
  return [
    {
      ...{ key: "title", label: "Item", width: "1fr", sort: "title" },
      cell: ({ id, title, category }) => (
        <span title={`${title}, ${category}`}>
          <span className="block truncate leading-tight font-semibold">{title}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {id} · {category}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 76, align: "right", sort: "clicks" },
      cell: ({ clicks }) => formatCount(clicks),
    },
    {
      ...{ key: "orders", label: "Orders", width: 76, align: "right", sort: "orders" },
      cell: ({ orders }) => formatCount(orders),
    },
    {
      ...{ key: "usual", label: "As its kind", width: 110, align: "right", sort: "usual" },
      about:
        "Orders that as many clicks bring on others of its category and price, and how likely so few are by chance.",
      cell: ({ usual, chance }) => (
        <span>
          <span className="block leading-tight">{usual.toFixed(1)}</span>
          <span className="block text-xs leading-tight text-soft">
            {chance < 0.001 ? "under 1 in 1,000" : `${(100 * chance).toFixed(1)} %`}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "lost", label: "Missed a month", width: 116, align: "right", sort: "lost" },
      about: "What it would leave after costs if it converted as its kind.",
      cell: ({ lost }) => (lost === null ? "–" : formatMoney(lost, currency)),
    },
    {
      key: "gaps",
      label: "Missing, or thin beside its kind",
      width: 260,
      cell: ({ missing, thin }) =>
        missing.length + thin.length === 0 ? (
          <span className="text-soft">nothing that the feed tells</span>
        ) : (
          <span title={[...missing, ...thin].join(", ")}>
            {missing.length > 0 && <span className="text-ember-strong">no {missing.join(", no ")}</span>}
            {missing.length > 0 && thin.length > 0 && "; "}
            {thin.length > 0 && `short ${thin.join(", ")}`}
          </span>
        ),
    },
  ];
}

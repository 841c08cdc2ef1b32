"use client";

import { useMemo, useState } from "react";
import { liesBelow, windowHolds, type ListingWindow } from "@/core/channel/listing-window";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, millsToField, parseMoney, toUnits } from "@/core/kit/money";
import type { KnownListing } from "@/server/places/listings";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { SearchSelect } from "@/ui/search-select";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { AimDialog, type AimStart } from "../../aim-dialog";
import { NegativeDialog } from "../../negative-dialog";
import { PickBar } from "../../pick-bar";
import { useList } from "../../use-list";
import { GivePlaces, LISTINGS } from "../give-places";
import { TargetsTabs } from "../tabs";
import { SideBySide } from "./side-by-side";

const KINDS = {
  others: "rivals and companions",
  rival: "rivals",
  companion: "companions",
  own: "own",
  all: "all",
} as const;

/** The ends of a window as they are typed. */
interface Ends {
  category: string;
  priceFrom: string;
  priceTo: string;
  ratingFrom: string;
  ratingTo: string;
  reviewsTo: string;
}
const OPEN: Ends = { category: "", priceFrom: "", priceTo: "", ratingFrom: "", ratingTo: "", reviewsTo: "" };

/** The window that typed ends stand for. An end that can't be read is left open. */
function windowOf({ category, priceFrom, priceTo, ratingFrom, ratingTo, reviewsTo }: Ends): ListingWindow {
  const price = (text: string) => {
    const parsed = parseMoney(text);
    return text.trim() !== "" && parsed.ok ? parsed.mills : null;
  };
  const number = (text: string) => {
    const value = Number(text.replace(",", "."));
    return text.trim() !== "" && Number.isFinite(value) ? value : null;
  };
  const stars = (text: string) => {
    const rating = number(text);
    return rating === null ? null : Math.min(5, Math.max(1, rating));
  };
  return {
    ...{ by: "category", category, priceFrom: price(priceFrom), priceTo: price(priceTo) },
    ...{ ratingFrom: stars(ratingFrom), ratingTo: stars(ratingTo) },
    reviewsTo: number(reviewsTo),
  };
}

/** The middle price of our items that stand beside the listings of a category, mills; null where none does. */
function middlePriceOf(all: readonly KnownListing[], category: string): number | null {
  const items = new Map(
    all.flatMap(({ category: of, nearest }) =>
      liesBelow(of, category) && nearest?.price ? [[nearest.id, nearest.price] as const] : [],
    ),
  );
  const prices = [...items.values()].sort((a, b) => a - b);
  return prices[Math.floor(prices.length / 2)] ?? null;
}

/** Every listing known, with our nearest item beside it; the same ends that find them make a window to aim at. */
export default function ListingsPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("Results of the last 90 days");
  const listings = useApi<KnownListing[]>(apiPath("listings"));
  const [kind, setKind] = useState<keyof typeof KINDS>("others");
  const [ends, setEnds] = useState(OPEN);
  const [aim, setAim] = useState<AimStart | null>(null);
  const [isNegative, setNegative] = useState(false);
  const [isPaste, setPaste] = useState(false);
  const window = useMemo(() => windowOf(ends), [ends]);
  const rows = useMemo(
    () =>
      (listings.data ?? []).filter(
        (listing) =>
          (kind === "all" || (kind === "others" ? listing.kind !== "own" : listing.kind === kind)) &&
          (window.category === ""
            ? windowHolds({ ...window, category: listing.category }, listing)
            : windowHolds(window, listing)),
      ),
    [listings.data, kind, window],
  );
  const list = useList({
    rows,
    keyOf: ({ listing }) => listing,
    textOf: ({ listing, title, category }) => `${listing} ${title} ${category}`,
    sorts: {
      title: ({ title }) => title,
      price: ({ price }) => price,
      rating: ({ rating }) => rating,
      reviews: ({ reviews }) => reviews,
      views: ({ monthlyViews }) => monthlyViews,
      cpc: ({ typicalCpc }) => typicalCpc,
      cost: ({ cost }) => cost,
      orders: ({ orders }) => orders,
    },
    copy: [
      { heading: "listing", of: ({ listing }) => listing },
      { heading: "title", of: ({ title }) => title },
      { heading: "category", of: ({ category }) => category },
      { heading: "price", of: ({ price }) => (price === null ? null : toUnits(price)) },
      { heading: "rating", of: ({ rating }) => rating },
      { heading: "reviews", of: ({ reviews }) => reviews },
      { heading: "views a month", of: ({ monthlyViews }) => monthlyViews },
      { heading: "spend", of: ({ cost }) => toUnits(cost) },
      { heading: "orders", of: ({ orders }) => orders },
      { heading: "our nearest item", of: ({ nearest }) => nearest?.id ?? null },
    ],
  });
  if (listings.error || !listings.data)
    return (
      <PageWaiting title="Listings" what="the listings" error={listings.error}>
        <TargetsTabs />
      </PageWaiting>
    );
  const all = listings.data;
  const categories = [...new Set(all.map(({ category }) => category))].filter(Boolean).sort();
  const inReach =
    window.category === "" ? 0 : all.filter((one) => one.kind !== "own" && windowHolds(window, one)).length;
  const ownPrice = window.category === "" ? null : middlePriceOf(all, window.category);
  const set = (change: Partial<Ends>) => setEnds((old) => ({ ...old, ...change }));
  const values = list.picked.map(({ listing }) => listing);
  const startOf = (picked: KnownListing[]): AimStart => ({
    values: picked.map(({ listing }) => listing),
    what: "listing",
    items: [...new Set(picked.flatMap(({ nearest }) => nearest?.id ?? []))].slice(0, 5),
    purpose: picked.every(({ kind: of }) => of === "own") ? "defend" : "conquest",
  });
  const end = (name: keyof Ends, label: string, shown: string) => (
    <label className="flex items-center gap-1.5 text-sm text-soft">
      {shown}
      <TextInput
        aria-label={label}
        inputMode="decimal"
        className="w-18!"
        value={ends[name]}
        onChange={(event) => set({ [name]: event.target.value })}
      />
    </label>
  );
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Listings"
        facts={`${plural(all.filter(({ kind: of }) => of === "rival").length, "rival")} · ${plural(all.filter(({ kind: of }) => of === "own").length, "page")} of our own`}
      >
        <Button onClick={() => setPaste(true)}>Paste listings</Button>
      </PageHead>
      <TargetsTabs />
      {all.length === 0 ? (
        <EmptyNote title="Listings will stand here">
          The channel’s, those your reports name, and those you paste. Read a feed in first, or paste a list.
        </EmptyNote>
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <TextInput
              type="search"
              aria-label="Search listings"
              placeholder="Search listings  ( / )"
              className="w-48!"
              {...list.search}
            />
            <ChoiceSelect aria-label="Whose" className="w-48!" value={kind} onChange={setKind} choices={KINDS} />
            <span className="w-64">
              <SearchSelect
                label="Category"
                placeholder="Any category"
                value={ends.category}
                choices={[
                  { value: "", label: "Any category" },
                  ...categories.map((value) => ({ value, label: value })),
                ]}
                onChange={(category) => set({ category })}
              />
            </span>
            {ownPrice !== null && (
              <Button
                look="quiet"
                title="From what our items cost there to twice that, up to four stars: where they are no dearer and better rated"
                onClick={() =>
                  set({
                    priceFrom: millsToField(ownPrice),
                    priceTo: millsToField(2 * ownPrice),
                    ratingFrom: "",
                    ratingTo: "4",
                  })
                }
              >
                Around our price
              </Button>
            )}
            {ends !== OPEN && (
              <Button look="quiet" onClick={() => setEnds(OPEN)}>
                Open all ends
              </Button>
            )}
          </div>
          <div className="flex flex-wrap items-center gap-2">
            {end("priceFrom", "Price from", "Price")}
            {end("priceTo", "Price to", "to")}
            {end("ratingFrom", "Rating from", "Rating")}
            {end("ratingTo", "Rating to", "to")}
            {end("reviewsTo", "Reviews to", "Reviews up to")}
            <span className="ml-auto flex items-center gap-2 text-sm num">
              {window.category === "" ? (
                <span className="text-soft">
                  {plural(list.found.length, "listing")}; choose a category for a window
                </span>
              ) : (
                <b role="status">{plural(inReach, "listing")} in reach</b>
              )}
              <Button
                disabled={inReach === 0}
                onClick={() =>
                  setAim({
                    ...startOf(rows.filter(({ kind: of }) => of !== "own")),
                    ...{ values: [], window, purpose: "conquest" },
                  })
                }
              >
                Aim at this window
              </Button>
            </span>
          </div>
          {list.picked.length > 0 && (
            <PickBar
              label={`${plural(list.picked.length, "listing")} picked`}
              onCopy={list.copyRows}
              onClear={list.clear}
            >
              <Button onClick={() => setAim(startOf(list.picked))}>Aim at them</Button>
              <Button onClick={() => setNegative(true)}>Keep out of them</Button>
            </PickBar>
          )}
          {list.picked.length === 1 && <SideBySide listing={list.picked[0]!} />}
          <DataTable
            label="Listings"
            columns={columnsOf(currency)}
            rowHeight={44}
            empty={<p className="p-4 text-sm text-soft">No listing lies within these ends.</p>}
            {...list.table}
          />
        </>
      )}
      {aim && <AimDialog start={aim} onClose={() => setAim(null)} onDone={list.clear} />}
      {isNegative && (
        <NegativeDialog
          level="listing"
          values={values}
          within={null}
          onClose={() => setNegative(false)}
          onDone={list.clear}
        />
      )}
      {isPaste && <GivePlaces wanted={LISTINGS} onClose={() => setPaste(false)} />}
    </div>
  );
}

const KIND_WORDS = { rival: "rival", companion: "companion", own: "our own", unknown: "not known" } as const;

function columnsOf(currency: string): TableColumn<KnownListing>[] {
  const money = (mills: number | null) => (mills === null ? "–" : formatMoney(mills, currency));
  return [
    {
      ...{ key: "title", label: "Listing", width: "1fr", sort: "title" },
      cell: ({ listing, title, kind, category, from }) => (
        <span className="block min-w-0" title={`${listing}, known from ${from.join(", ")}`}>
          <span className="block truncate leading-tight">{title}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {KIND_WORDS[kind]}
            {category && ` · ${category}`}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "price", label: "Price", width: 84, align: "right", sort: "price" },
      cell: ({ price }) => money(price),
    },
    {
      ...{ key: "rating", label: "Rating", width: 66, align: "right", sort: "rating" },
      cell: ({ rating }) => rating?.toFixed(1) ?? "–",
    },
    {
      ...{ key: "reviews", label: "Reviews", width: 70, align: "right", sort: "reviews" },
      cell: ({ reviews }) => (reviews === null ? "–" : formatCount(reviews)),
    },
    {
      ...{ key: "nearest", label: "Our nearest item", width: 180 },
      about: "The item of the same category whose price is nearest; ours that is cheaper or rated better is marked.",
      cell: ({ nearest, price, rating }) =>
        nearest ? (
          <span className="block min-w-0" title={`${nearest.id} ${nearest.title}`}>
            <span className="block truncate leading-tight">{nearest.title}</span>
            <span className="block truncate text-xs leading-tight text-soft num">
              <Better is={price !== null && nearest.price !== null && nearest.price < price}>
                {money(nearest.price)}
              </Better>
              {" · "}
              <Better is={rating !== null && nearest.rating !== null && nearest.rating > rating}>
                {nearest.rating?.toFixed(1) ?? "–"} ★
              </Better>
              {` · ${nearest.reviews === null ? "reviews –" : plural(nearest.reviews, "review")}`}
            </span>
          </span>
        ) : (
          <span className="text-soft">–</span>
        ),
    },
    {
      ...{ key: "views", label: "Views a month", width: 104, align: "right", sort: "views" },
      cell: ({ monthlyViews }) => (monthlyViews === null ? "–" : formatCount(monthlyViews)),
    },
    {
      ...{ key: "cpc", label: "Click costs", width: 84, align: "right", sort: "cpc" },
      cell: ({ typicalCpc }) => money(typicalCpc),
    },
    { ...{ key: "cost", label: "Spend", width: 80, align: "right", sort: "cost" }, cell: ({ cost }) => money(cost) },
    {
      ...{ key: "orders", label: "Orders", width: 66, align: "right", sort: "orders" },
      cell: ({ orders }) => formatCount(orders),
    },
    {
      ...{ key: "use", label: "Use", width: 72 },
      cell: ({ aimedAt, inWindows, isKeptOut }) =>
        isKeptOut ? (
          <span className="text-ember">kept out</span>
        ) : aimedAt > 0 ? (
          <span className="text-petrol">aimed at</span>
        ) : inWindows > 0 ? (
          <span className="text-petrol" title={`In ${plural(inWindows, "window")} of its category that we aim at`}>
            window
          </span>
        ) : (
          <span className="text-soft">–</span>
        ),
    },
  ];
}

/** Marks where ours stands better. */
function Better({ is, children }: { is: boolean; children: React.ReactNode }) {
  return is ? <b className="text-petrol">{children}</b> : <>{children}</>;
}

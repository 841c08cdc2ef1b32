"use client";

import { useQueries } from "@tanstack/react-query";
import { formatDistanceToNowStrict } from "date-fns";
import { Download, Upload } from "lucide-react";
import { parseAsBoolean, parseAsJson, parseAsString, useQueryStates } from "nuqs";
import { useCallback, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { z } from "zod";
import { conditionSchema } from "@/core/catalogue/find-rows";
import { formatCount, plural } from "@/core/kit/format";
import type { Diagnostic, FeedInfo } from "@/server/catalogue/feeds";
import type { ItemLine } from "@/server/catalogue/items";
import { Button, buttonClasses } from "@/ui/button";
import { DataTable } from "@/ui/data-table";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useKeys } from "@/ui/use-keys";
import { apiGet, ApiError, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { ItemActionDialog, type ItemAction } from "../item-actions";
import { DiagnosticsDialog } from "./diagnostics";
import { FilterBar } from "./filter-bar";
import { itemColumns, DEFAULT_COLUMNS } from "./item-columns";
import { ItemPanel } from "./item-panel";
import { UploadDialog } from "./upload-dialog";

const PAGE = 200;

interface Page {
  items: ItemLine[];
  total: number;
}

const searchState = {
  q: parseAsString.withDefault(""),
  filter: parseAsJson((value) => z.array(conditionSchema).parse(value)).withDefault([]),
  sort: parseAsString.withDefault("-cost"),
  shelf: parseAsString.withDefault(""),
  columns: parseAsString.withDefault(DEFAULT_COLUMNS.join(",")),
  item: parseAsString,
  upload: parseAsBoolean.withDefault(false),
  diagnostics: parseAsBoolean.withDefault(false),
};

/** The item table over the whole catalogue, its faults, and the door for a feed. */
export default function CataloguePage() {
  const { slug, currency } = useWorkspace();
  const [days] = useDays();
  const apiPath = useApiPath();
  const [state, setState] = useQueryStates(searchState);
  const [range, setRange] = useState({ first: 0, last: 40 });
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [cursor, setCursor] = useState(-1);
  const [action, setAction] = useState<ItemAction | null>(null);
  const searchBox = useRef<HTMLInputElement>(null);
  const feeds = useApi<{ feeds: FeedInfo[]; diagnostics: Diagnostic[] }>(apiPath("feeds"));
  const query = new URLSearchParams({ q: state.q, sort: state.sort, shelf: state.shelf, days: String(days) });
  query.set("filter", JSON.stringify(state.filter));
  const base = query.toString();

  const firstPage = Math.floor(range.first / PAGE);
  const lastPage = Math.floor(range.last / PAGE);
  const wanted = [...new Set([0, ...Array.from({ length: lastPage - firstPage + 1 }, (_, i) => firstPage + i)])];
  const pages = useQueries({
    queries: wanted.map((page) => {
      const path = apiPath(`items?${base}&limit=${PAGE}&cursor=${page * PAGE}`);
      return { queryKey: ["api", path], queryFn: () => apiGet<Page>(path), staleTime: 15_000 };
    }),
  });
  const loaded = new Map(wanted.map((page, i) => [page, pages[i]?.data]));
  const total = pages.find((page) => page.data)?.data?.total ?? 0;
  const failed = pages.find((page) => page.error)?.error;
  const rowAt = (index: number) => loaded.get(Math.floor(index / PAGE))?.items[index % PAGE];
  const onRange = useCallback((first: number, last: number) => {
    setRange((old) => (old.first === first && old.last === last ? old : { first, last }));
  }, []);
  const columns = useMemo(() => itemColumns(currency, state.columns.split(",")), [currency, state.columns]);
  const feed = feeds.data?.feeds[0];
  const faults = feeds.data?.diagnostics ?? [];

  const toggle = (key: string) =>
    setSelected((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const toggleAll = async () => {
    if (selected.size > 0) return setSelected(new Set());
    try {
      const { ids } = await apiGet<{ ids: string[] }>(apiPath(`item-ids?${base}`));
      setSelected(new Set(ids));
    } catch (error) {
      toastError(error);
    }
  };
  const openAction = (next: ItemAction) => {
    const row = cursor >= 0 ? rowAt(cursor) : undefined;
    if (selected.size === 0 && row) setSelected(new Set([row.id]));
    if (selected.size > 0 || row) setAction(next);
  };
  const move = (step: number) => setCursor((old) => Math.max(0, Math.min(total - 1, old + step)));
  useKeys({
    "/": () => searchBox.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    x: () => {
      const row = rowAt(cursor);
      if (row) toggle(row.id);
    },
    Enter: () => {
      const row = rowAt(cursor);
      if (row) void setState({ item: row.id });
    },
    b: () => openAction("bid"),
    e: () => openAction("exclude"),
    s: () => {
      const row = rowAt(cursor);
      if (row) void setState({ item: row.id });
    },
    Escape: () => setSelected(new Set()),
  });
  const items = useMemo(() => [...selected], [selected]);

  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Catalogue"
        facts={
          feed ? (
            <span suppressHydrationWarning>
              {formatCount(feed.counts?.stored ?? 0)} items from {feed.fileName}
              {feed.readAt ? `, read ${formatDistanceToNowStrict(feed.readAt)} ago` : ""}
            </span>
          ) : null
        }
      >
        {feed && (
          <Button onClick={() => void setState({ diagnostics: true })}>
            {faults.length > 0
              ? `${plural(faults.length, "kind")} of fault · ${formatCount(feed.counts?.setAside ?? 0)} rows aside`
              : "No faults found"}
          </Button>
        )}
        {feed && (
          <a className={buttonClasses("plain")} href={`/api/v1/${slug}/items.csv?${base}`} download>
            <Download aria-hidden className="size-3.5" /> CSV
          </a>
        )}
        <Button look="ember" onClick={() => void setState({ upload: true })}>
          <Upload aria-hidden className="size-3.5" /> {feed ? "Upload the feed anew" : "Upload a feed"}
        </Button>
      </PageHead>
      {feeds.data && !feed ? (
        <EmptyNote
          title="Your items will stand here"
          action={
            <Button look="ember" onClick={() => void setState({ upload: true })}>
              Choose a feed file
            </Button>
          }
        >
          A feed is a file with a row for each item: CSV, TSV or another delimiter, RSS or Atom XML, gzipped or not. It
          needs an ID, a title and a price.
        </EmptyNote>
      ) : (
        <>
          <FilterBar
            searchBox={searchBox}
            state={state}
            onChange={(change) => {
              setCursor(-1);
              void setState(change);
            }}
          />
          {selected.size > 0 && (
            <div className="flex items-center gap-2 rounded-md bg-petrol-wash px-3 py-1.5 text-sm">
              <b className="num">{plural(selected.size, "item")} selected</b>
              <Button onClick={() => setAction("bid")}>Set bid</Button>
              <Button onClick={() => setAction("exclude")}>Exclude</Button>
              <Button
                onClick={() =>
                  void navigator.clipboard
                    .writeText(items.join("\n"))
                    .then(() => toast.success(`${plural(items.length, "ID")} copied, one a line`))
                    .catch(() => toast.error("The browser did not let the IDs be copied."))
                }
              >
                Copy IDs
              </Button>
              <Button look="quiet" onClick={() => setSelected(new Set())}>
                Clear
              </Button>
            </div>
          )}
          {failed instanceof ApiError && <ErrorNote error={failed.failure} />}
          <DataTable
            label="Items"
            columns={columns}
            total={total}
            rowAt={rowAt}
            keyOf={(row) => row.id}
            onRange={onRange}
            sort={state.sort}
            onSort={(sort) => void setState({ sort })}
            selected={selected}
            onToggle={toggle}
            onToggleAll={() => void toggleAll()}
            isAllSelected={selected.size > 0 && selected.size === total}
            cursor={cursor}
            onCursor={setCursor}
            onOpen={(row) => void setState({ item: row.id })}
            empty={
              pages[0]?.isPending ? null : (
                <EmptyNote title="No item matches">
                  <Button onClick={() => void setState({ q: "", filter: [], shelf: "" })}>
                    Clear search and filters
                  </Button>
                </EmptyNote>
              )
            }
          />
          <p role="status" className="text-xs text-soft num">
            {plural(total, "item")} found
          </p>
        </>
      )}
      <ItemPanel
        id={state.item}
        onClose={() => void setState({ item: null })}
        onOpen={(id) => void setState({ item: id })}
      />
      <UploadDialog open={state.upload} onClose={() => void setState({ upload: false })} />
      <DiagnosticsDialog
        open={state.diagnostics}
        onClose={() => void setState({ diagnostics: false })}
        faults={faults}
        notices={feed?.notices ?? []}
        setAside={feed?.counts?.setAside ?? 0}
      />
      <ItemActionDialog action={action} items={items} onClose={() => setAction(null)} />
    </div>
  );
}

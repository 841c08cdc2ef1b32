"use client";

import { formatDistanceToNowStrict } from "date-fns";
import { ClipboardPaste, Download, LayoutList, Upload } from "lucide-react";
import Link from "next/link";
import { useQueryStates } from "nuqs";
import { useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import { Button, buttonClasses } from "@/ui/button";
import { DataTable } from "@/ui/data-table";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useKeys } from "@/ui/use-keys";
import { apiGet, ApiError, toastError } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { ItemActionDialog, type ItemAction } from "../item-actions";
import { LaunchDialog } from "../launch-dialog";
import { KeepShelfDialog, type KeptAs } from "../keep-shelf-dialog";
import { ColumnChooser } from "../column-chooser";
import { FilterBar } from "./filter-bar";
import { chosenColumns, itemsQuery, itemsState, NO_FILTER, parseFilter } from "./asks";
import { DEFAULT_COLUMNS, itemColumns } from "./item-columns";
import { ItemPanel } from "./item-panel";
import { PasteDialog } from "./paste-dialog";
import { SavedViews } from "../saved-views";
import { SelectionBar } from "./selection-bar";
import { CatalogueTabs } from "./tabs";
import { UploadDialog } from "./upload-dialog";
import { copyItems } from "./copy-items";
import { useFeeds, useFields } from "./use-feeds";
import { useItemPages } from "./use-item-pages";
import { tableShelves, useShelfSets } from "../shelves/use-shelf-fields";
import { fieldChoices } from "./where-builder";

/** The item table over the whole catalogue, and the door for a feed. */
export default function CataloguePage() {
  const { slug, currency } = useWorkspace();
  const [days] = useDays();
  const apiPath = useApiPath();
  const [state, setState] = useQueryStates(itemsState);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  // The query whose whole answer is selected, so that acting on it need not name each item.
  const [allOf, setAllOf] = useState<string | null>(null);
  const select = (ids: Iterable<string>, query: string | null = null) => {
    setSelected(new Set(ids));
    setAllOf(query);
  };
  const [cursor, setCursor] = useState(-1);
  const [action, setAction] = useState<ItemAction | null>(null);
  const [isLaunch, setLaunch] = useState(false);
  const [isPasting, setPasting] = useState(false);
  const [kept, setKept] = useState<{ what: KeptAs; count: number; suggestion?: string } | null>(null);
  const searchBox = useRef<HTMLInputElement>(null);
  const feeds = useFeeds();
  const fieldInfos = useFields();
  const sets = useShelfSets();
  const fields = useMemo(
    () => [...fieldChoices(fieldInfos, true), ...tableShelves(sets.data ?? [])],
    [fieldInfos, sets.data],
  );
  const chosen = useMemo(() => chosenColumns(state.columns), [state.columns]);
  const query = itemsQuery(state, days);
  const base = query.toString();
  const exportQuery = new URLSearchParams(query);
  exportQuery.set("columns", chosen.join(","));

  const { total, failed, isPending, isOld, rowAt, onRange } = useItemPages(base);
  const columns = useMemo(() => itemColumns(currency, chosen, fields), [currency, chosen, fields]);
  const feed = feeds.data?.feeds[0];
  const items = useMemo(() => [...selected], [selected]);

  const toggle = (key: string) => {
    setAllOf(null);
    setSelected((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  };
  const toggleAll = async () => {
    if (selected.size > 0) return select([]);
    try {
      const { ids } = await apiGet<{ ids: string[] }>(apiPath(`item-ids?${base}`));
      select(ids, base);
    } catch (error) {
      toastError(error);
    }
  };
  const openAction = (next: ItemAction) => {
    const row = cursor >= 0 ? rowAt(cursor) : undefined;
    if (selected.size === 0 && row) select([row.id]);
    if (selected.size > 0 || row) setAction(next);
  };
  const isNarrowed = state.q.trim() !== "" || state.filter.of.length > 0 || state.shelf !== "";
  /** What is selected goes onto a hand-picked shelf; else what is filtered for, or the row under the cursor. */
  const toShelf = () => {
    const row = cursor >= 0 ? rowAt(cursor) : undefined;
    if (selected.size > 0) setKept({ what: { ids: items }, count: items.length });
    else if (isNarrowed) {
      const what = { where: state.filter, q: state.q, shelf: state.shelf };
      setKept({ what, count: total, suggestion: state.q.trim().slice(0, 40) });
    } else if (row) setKept({ what: { ids: [row.id] }, count: 1 });
    else toast.info("Filter, search or select items first; then they can be kept as a shelf.");
  };
  const copy = () => copyItems({ apiPath, items, chosen, fields, days, sort: state.sort });
  const tryCopy = () =>
    void copy().catch((error: unknown) =>
      error instanceof ApiError ? toastError(error) : toast.error("The browser did not let the rows be copied."),
    );
  const move = (step: number) => setCursor((old) => Math.max(0, Math.min(total - 1, old + step)));
  const open = () => {
    const row = rowAt(cursor);
    if (row) void setState({ item: row.id });
  };
  useKeys({
    "/": () => searchBox.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    x: () => {
      const row = rowAt(cursor);
      if (row) toggle(row.id);
    },
    Enter: open,
    s: toShelf,
    b: () => openAction("item-bid"),
    e: () => openAction("exclude"),
    c: () => selected.size > 0 && tryCopy(),
    v: () => setPasting(true),
    a: () => void toggleAll(),
    Escape: () => select([]),
  });
  const view = { q: state.q, filter: JSON.stringify(state.filter), sort: state.sort, columns: state.columns };

  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Catalogue"
        facts={
          feed ? (
            <span suppressHydrationWarning>
              {formatCount(feed.counts?.stored ?? 0)} items from {feed.fileName}
              {feed.readAt ? `, read ${formatDistanceToNowStrict(feed.readAt)} ago` : ""}
              {(feed.counts?.setAside ?? 0) > 0 && (
                <>
                  {" · "}
                  <Link className="text-petrol underline" href={`/w/${slug}/catalogue/faults`}>
                    {plural(feed.counts!.setAside, "row")} set aside
                  </Link>
                </>
              )}
            </span>
          ) : null
        }
      >
        <Button look={feed ? "plain" : "ember"} onClick={() => void setState({ upload: true })}>
          <Upload aria-hidden className="size-3.5" /> {feed ? "Upload the feed anew" : "Connect a feed"}
        </Button>
      </PageHead>
      <CatalogueTabs feeds={feeds.data} />
      {feed?.trouble && (
        <ErrorNote
          error={{
            ...feed.trouble,
            hint: `The catalogue of ${feed.readAt ? formatDistanceToNowStrict(feed.readAt, { addSuffix: true }) : "before"} stays in force. ${feed.trouble.hint ?? ""}`,
          }}
        />
      )}
      {feeds.data && !feed ? (
        <EmptyNote
          title="Your items will stand here"
          action={
            <Button look="ember" onClick={() => void setState({ upload: true })}>
              Choose a feed file
            </Button>
          }
        >
          A feed holds a row for each item: CSV, TSV, RSS or Atom XML, JSON, XLSX or Parquet, as a file, an address or
          in a watched folder. It needs an ID, a title and a price.
        </EmptyNote>
      ) : (
        <>
          <FilterBar
            searchBox={searchBox}
            state={state}
            fields={fields}
            onChange={(change) => {
              setCursor(-1);
              void setState(change);
            }}
          >
            {isNarrowed && selected.size === 0 && (
              <Button look="quiet" onClick={toShelf}>
                <LayoutList aria-hidden className="size-3.5" /> Keep as a shelf
              </Button>
            )}
            <Button look="quiet" onClick={() => setPasting(true)}>
              <ClipboardPaste aria-hidden className="size-3.5" /> Paste
            </Button>
            <SavedViews
              screen="catalogue"
              current={view}
              onOpen={(saved) => {
                setCursor(-1);
                void setState({
                  q: saved["q"] ?? "",
                  filter: parseFilter(JSON.parse(saved["filter"] ?? "[]")),
                  sort: saved["sort"] ?? "-cost",
                  columns: saved["columns"] ?? DEFAULT_COLUMNS.join(","),
                  shelf: "",
                });
              }}
            />
            <ColumnChooser
              fields={fields}
              chosen={chosen}
              defaults={DEFAULT_COLUMNS}
              onChange={(next) => void setState({ columns: next.join(",") })}
            />
            <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/items.csv?${exportQuery}`} download>
              <Download aria-hidden className="size-3.5" /> CSV
            </a>
            <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/items.xlsx?${exportQuery}`} download>
              XLSX
            </a>
          </FilterBar>
          {selected.size > 0 && (
            <SelectionBar
              ids={items}
              onAction={setAction}
              onShelf={toShelf}
              onLaunch={() => setLaunch(true)}
              onSelect={(ids) => select(ids)}
              onCopy={tryCopy}
            />
          )}
          {failed instanceof ApiError && <ErrorNote error={failed.failure} />}
          <DataTable
            label="Items"
            columns={columns}
            total={total}
            rowAt={rowAt}
            isOld={isOld}
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
              isPending ? null : (
                <EmptyNote title="No item matches">
                  <Button onClick={() => void setState({ q: "", filter: NO_FILTER, shelf: "" })}>
                    Clear search and filters
                  </Button>
                </EmptyNote>
              )
            }
          />
          <p role="status" className="text-xs text-soft num">
            {isPending ? "Looking …" : `${plural(total, "item")} found`}
          </p>
        </>
      )}
      <ItemPanel
        id={state.item}
        onClose={() => void setState({ item: null })}
        onOpen={(id) => void setState({ item: id })}
      />
      <UploadDialog open={state.upload} onClose={() => void setState({ upload: false })} />
      <PasteDialog open={isPasting} onClose={() => setPasting(false)} onSelect={(ids) => select(ids)} />
      {kept && <KeepShelfDialog {...kept} onClose={() => setKept(null)} />}
      {isLaunch && <LaunchDialog items={items} onClose={() => setLaunch(false)} />}
      <ItemActionDialog action={action} items={items} query={allOf} onClose={() => setAction(null)} />
    </div>
  );
}

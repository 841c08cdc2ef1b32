"use client";

import { createColumnHelper, tableFeatures, useTable, type ColumnDef } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useMemo, useRef, type ReactNode } from "react";
import { cx } from "./cx";

/** A column of a {@link DataTable}. `sort` is what to sort by; without it the heading is no button. */
export interface TableColumn<T> {
  key: string;
  label: string;
  /** Pixels, or a share of what is left over ("1fr"). */
  width: number | "1fr";
  align?: "left" | "right";
  sort?: string;
  about?: string;
  cell: (row: T, index: number) => ReactNode;
}

export interface DataTableProps<T> {
  label: string;
  columns: TableColumn<T>[];
  total: number;
  /** The row at an index, or undefined while it is being loaded. */
  rowAt: (index: number) => T | undefined;
  keyOf: (row: T) => string;
  /** Told which rows are in sight, so that they can be loaded. */
  onRange?: (first: number, last: number) => void;
  sort?: string;
  onSort?: (sort: string) => void;
  selected?: ReadonlySet<string>;
  onToggle?: (key: string) => void;
  onToggleAll?: () => void;
  isAllSelected?: boolean;
  /** The row that the keyboard stands on. */
  cursor?: number;
  onCursor?: (index: number) => void;
  onOpen?: (row: T) => void;
  rowHeight?: number;
  /** Whether the rows are those of what was looked for before: they stay in sight, and nothing can be done with them. */
  isOld?: boolean;
  empty?: ReactNode;
}

interface Slot<T> {
  index: number;
  row: T | undefined;
}

const features = tableFeatures({});

/** Room for rows that is drawn for until the real one is known, pixels. */
const FIRST_ROOM = { width: 1000, height: 600 };

/**
 * A table over any number of rows: only those in sight exist. The table library owns columns and cells, the virtual
 * list places the rows, the owner loads data and keeps selection and cursor.
 */
export function DataTable<T>(props: DataTableProps<T>) {
  const { columns, total, rowAt, onRange, rowHeight = 36, cursor } = props;
  const scroller = useRef<HTMLDivElement>(null);
  // The virtual list hands out functions that the compiler can't memoise; this component is left as it is.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 8,
    // Before it can be measured, and on the server: what a usual screen has room for.
    initialRect: FIRST_ROOM,
  });
  const visible = virtual.getVirtualItems();
  const first = visible[0]?.index ?? 0;
  const last = visible.at(-1)?.index ?? 0;
  useEffect(() => {
    if (total > 0) onRange?.(first, last);
  }, [first, last, total, onRange]);
  useEffect(() => {
    if (cursor !== undefined && cursor >= 0) virtual.scrollToIndex(cursor);
    // The virtual list itself changes with every scroll and must not pull the view back.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [cursor]);

  const helper = useMemo(() => createColumnHelper<typeof features, Slot<T>>(), []);
  const definitions = useMemo(
    () =>
      columns.map((column) =>
        helper.display({
          id: column.key,
          header: column.label,
        }),
      ) as ColumnDef<typeof features, Slot<T>>[],
    [columns, helper],
  );
  const data = visible.map(({ index }) => ({ index, row: rowAt(index) }));
  const table = useTable({ features, columns: definitions, data });
  const template = [
    ...(props.onToggle ? ["36px"] : []),
    ...columns.map(({ width }) => (width === "1fr" ? "minmax(220px, 1fr)" : `${width}px`)),
  ].join(" ");

  return (
    <div
      ref={scroller}
      role="region"
      aria-label={`${props.label}, scrolling`}
      tabIndex={0}
      className="min-h-0 flex-1 overflow-auto rounded-lg border border-line bg-surface text-sm"
    >
      <div role="table" aria-label={props.label} aria-rowcount={total + 1} className="min-w-fit">
        <HeadRow {...props} template={template} />
        {total > 0 && (
          <div
            role="rowgroup"
            inert={props.isOld}
            className={cx("relative", props.isOld && "opacity-60 transition-opacity delay-200")}
            style={{ height: virtual.getTotalSize() }}
          >
            {table.getRowModel().rows.map((row, i) => {
              const { index, row: value } = row.original;
              const key = value === undefined ? `wait-${index}` : props.keyOf(value);
              const isSelected = value !== undefined && props.selected?.has(key);
              return (
                <div
                  key={index}
                  role="row"
                  aria-rowindex={index + 2}
                  aria-selected={props.onToggle ? Boolean(isSelected) : undefined}
                  onClick={() => {
                    props.onCursor?.(index);
                    if (value !== undefined) props.onOpen?.(value);
                  }}
                  className={cx(
                    "absolute inset-x-0 grid items-center border-b border-line/70",
                    props.onOpen && "cursor-pointer",
                    isSelected ? "bg-petrol-wash" : "hover:bg-raised/60",
                    cursor === index && "shadow-[inset_3px_0_0_var(--petrol)]",
                  )}
                  style={{
                    gridTemplateColumns: template,
                    height: rowHeight,
                    transform: `translateY(${visible[i]!.start}px)`,
                  }}
                >
                  {props.onToggle && (
                    <span role="cell" className="flex justify-center" onClick={(event) => event.stopPropagation()}>
                      <input
                        type="checkbox"
                        className="size-4 accent-petrol"
                        aria-label={`Select row ${index + 1}`}
                        checked={Boolean(isSelected)}
                        disabled={value === undefined}
                        onChange={() => props.onToggle?.(key)}
                      />
                    </span>
                  )}
                  {row.getAllCells().map((_, at) => {
                    const column = columns[at]!;
                    // Called, not made a component of: columns are made anew with every drawing, and what is open in a cell must stay.
                    return (
                      <span
                        key={column.key}
                        role="cell"
                        className={cx("min-w-0 truncate px-2", column.align === "right" && "text-right num")}
                      >
                        {value === undefined ? "…" : column.cell(value, index)}
                      </span>
                    );
                  })}
                </div>
              );
            })}
          </div>
        )}
      </div>
      {total === 0 && props.empty}
    </div>
  );
}

function HeadRow<T>({
  columns,
  template,
  sort = "",
  onSort,
  onToggle,
  onToggleAll,
  isAllSelected,
}: DataTableProps<T> & { template: string }) {
  const by = sort.replace(/^-/, "");
  const isDescending = sort.startsWith("-");
  return (
    <div role="rowgroup" className="sticky top-0 z-10 border-b border-line bg-surface">
      <div
        role="row"
        aria-rowindex={1}
        className="grid h-9 items-center text-soft"
        style={{ gridTemplateColumns: template }}
      >
        {onToggle && (
          <span role="columnheader" className="flex justify-center">
            <input
              type="checkbox"
              className="size-4 accent-petrol"
              aria-label="Select all rows found"
              checked={Boolean(isAllSelected)}
              onChange={() => onToggleAll?.()}
            />
          </span>
        )}
        {columns.map((column) => {
          const isSorted = column.sort !== undefined && column.sort === by;
          return (
            <span
              key={column.key}
              role="columnheader"
              title={column.about}
              aria-sort={isSorted ? (isDescending ? "descending" : "ascending") : undefined}
              className={cx("min-w-0 truncate px-2", column.align === "right" && "text-right")}
            >
              {column.sort && onSort ? (
                <button
                  type="button"
                  className={cx(
                    "inline-flex max-w-full items-center gap-0.5 hover:text-ink",
                    isSorted && "font-semibold text-ink",
                  )}
                  onClick={() => onSort(isSorted && isDescending ? column.sort! : isSorted ? "" : `-${column.sort}`)}
                >
                  <span className="truncate">{column.label}</span>
                  {isSorted &&
                    (isDescending ? (
                      <ArrowDown aria-hidden className="size-3" />
                    ) : (
                      <ArrowUp aria-hidden className="size-3" />
                    ))}
                </button>
              ) : (
                column.label
              )}
            </span>
          );
        })}
      </div>
    </div>
  );
}

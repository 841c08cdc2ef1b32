"use client";

import { parseAsString, useQueryStates } from "nuqs";
import { useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { toTsv } from "@/core/dispatch/cells";
import { plural } from "@/core/kit/format";
import { useKeys } from "@/ui/use-keys";
import { toastError } from "../../_lib/api";

/** What a list can be sorted by: numbers or texts of a row; null stands last. */
type SortKeys<T> = Record<string, (row: T) => number | string | null>;

/** A column as it is copied for a spreadsheet. */
export interface CopyColumn<T> {
  heading: string;
  of: (row: T) => string | number | null;
}

function compare(a: number | string | null, b: number | string | null): number {
  if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1;
  return typeof a === "string" && typeof b === "string" ? a.localeCompare(b) : (a as number) - (b as number);
}

/**
 * A list that is whole in the browser: found by words, sorted, picked by mouse or keys (/, j, k, x, a, c), copied. What is
 * looked for and sorted by stays in the address.
 */
export function useList<T>({
  rows,
  keyOf,
  textOf,
  sorts,
  copy,
}: {
  rows: T[];
  keyOf: (row: T) => string;
  textOf: (row: T) => string;
  sorts: SortKeys<T>;
  copy: CopyColumn<T>[];
}) {
  const [{ q, sort }, setState] = useQueryStates({
    q: parseAsString.withDefault(""),
    sort: parseAsString.withDefault(""),
  });
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [cursor, setCursor] = useState(-1);
  const search = useRef<HTMLInputElement>(null);
  const found = useMemo(() => {
    const words = q.toLowerCase().split(/\s+/).filter(Boolean);
    const list = rows.filter((row) => {
      const text = textOf(row).toLowerCase();
      return words.every((word) => text.includes(word));
    });
    const by = sorts[sort.replace(/^-/, "")];
    if (!by) return list;
    const sign = sort.startsWith("-") ? -1 : 1;
    return list.sort((a, b) => {
      const [x, y] = [by(a), by(b)];
      return x === null || y === null ? compare(x, y) : sign * compare(x, y);
    });
    // The callers' functions say the same in every drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [rows, q, sort]);
  const picked = rows.filter((row) => selected.has(keyOf(row)));
  const toggle = (key: string) =>
    setSelected((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const isAllSelected = found.length > 0 && found.every((row) => selected.has(keyOf(row)));
  const toggleAll = () => setSelected(isAllSelected ? new Set() : new Set(found.map(keyOf)));
  const copyRows = () => {
    const of = picked.length > 0 ? picked : found;
    const text = toTsv(
      copy.map(({ heading }) => heading),
      of.map((row) => copy.map((column) => column.of(row))),
    );
    navigator.clipboard
      .writeText(text)
      .then(() => toast.success(`${plural(of.length, "line")} copied`))
      .catch(toastError);
  };
  const move = (step: number) => setCursor((at) => Math.max(0, Math.min(found.length - 1, at + step)));
  useKeys({
    "/": () => search.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    x: () => {
      const row = found[cursor];
      if (row) toggle(keyOf(row));
    },
    a: toggleAll,
    c: copyRows,
  });
  return {
    found,
    picked,
    copyRows,
    clear: () => setSelected(new Set()),
    search: {
      ref: search,
      value: q,
      onChange: (event: { target: { value: string } }) => void setState({ q: event.target.value || null }),
    },
    /** What the table takes. */
    table: {
      total: found.length,
      rowAt: (index: number) => found[index],
      keyOf,
      sort,
      onSort: (next: string) => void setState({ sort: next || null }),
      selected,
      onToggle: toggle,
      onToggleAll: toggleAll,
      isAllSelected,
      cursor,
      onCursor: setCursor,
    },
  };
}

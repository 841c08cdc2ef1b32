"use client";

import { useQueries } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { apiGet } from "./api";
import { PAGE_ROWS } from "./view-defaults";

/**
 * The rows of a long list that are in sight, loaded a page at a time. Where something else is looked for, the first rows of
 * what was found before stay until those of the new list are there.
 * @param pathOf the API path of a page
 */
export function usePages<Page, Row>(pathOf: (offset: number, limit: number) => string, rowsOf: (page: Page) => Row[]) {
  const [range, setRange] = useState({ first: 0, last: 40 });
  const firstPage = Math.floor(range.first / PAGE_ROWS);
  const lastPage = Math.floor(range.last / PAGE_ROWS);
  const wanted = [...new Set([0, ...Array.from({ length: lastPage - firstPage + 1 }, (_, i) => firstPage + i)])];
  const pages = useQueries({
    queries: wanted.map((page) => {
      const path = pathOf(page * PAGE_ROWS, PAGE_ROWS);
      return { queryKey: ["api", path], queryFn: () => apiGet<Page>(path), staleTime: 15_000 };
    }),
  });
  const newest = pages.find((page) => page.data)?.data;
  const [kept, setKept] = useState<Page | undefined>(undefined);
  if (newest !== undefined && newest !== kept) setKept(newest);
  const loaded = new Map(wanted.map((page, i) => [page, pages[i]?.data]));
  if (newest === undefined) loaded.set(0, kept);
  const onRange = useCallback((first: number, last: number) => {
    setRange((old) => (old.first === first && old.last === last ? old : { first, last }));
  }, []);
  return {
    first: newest ?? kept,
    failed: pages.find((page) => page.error)?.error,
    isPending: pages[0]?.isPending ?? true,
    /** Whether the rows are those of what was looked for before. */
    isOld: newest === undefined && kept !== undefined,
    rowAt: (index: number): Row | undefined => {
      const page = loaded.get(Math.floor(index / PAGE_ROWS));
      return page === undefined ? undefined : rowsOf(page)[index % PAGE_ROWS];
    },
    /** Rows that are here now: those in sight and around it, and the first ones. */
    here: wanted.flatMap((page) => {
      const found = loaded.get(page);
      return found === undefined ? [] : rowsOf(found);
    }),
    onRange,
  };
}

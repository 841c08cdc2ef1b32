"use client";

import { useQueries } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { apiGet } from "./api";

/** Rows of one page. */
const PAGE = 200;

/**
 * The rows of a long list that are in sight, loaded a page at a time.
 * @param pathOf the API path of a page
 */
export function usePages<Page, Row>(pathOf: (offset: number, limit: number) => string, rowsOf: (page: Page) => Row[]) {
  const [range, setRange] = useState({ first: 0, last: 40 });
  const firstPage = Math.floor(range.first / PAGE);
  const lastPage = Math.floor(range.last / PAGE);
  const wanted = [...new Set([0, ...Array.from({ length: lastPage - firstPage + 1 }, (_, i) => firstPage + i)])];
  const pages = useQueries({
    queries: wanted.map((page) => {
      const path = pathOf(page * PAGE, PAGE);
      return { queryKey: ["api", path], queryFn: () => apiGet<Page>(path), staleTime: 15_000 };
    }),
  });
  const loaded = new Map(wanted.map((page, i) => [page, pages[i]?.data]));
  const onRange = useCallback((first: number, last: number) => {
    setRange((old) => (old.first === first && old.last === last ? old : { first, last }));
  }, []);
  return {
    first: pages.find((page) => page.data)?.data,
    failed: pages.find((page) => page.error)?.error,
    isPending: pages[0]?.isPending ?? true,
    rowAt: (index: number): Row | undefined => {
      const page = loaded.get(Math.floor(index / PAGE));
      return page === undefined ? undefined : rowsOf(page)[index % PAGE];
    },
    onRange,
  };
}

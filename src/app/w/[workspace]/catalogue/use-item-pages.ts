"use client";

import { useQueries } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import type { ItemLine } from "@/server/across/catalogue/items";
import { apiGet } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

const PAGE = 200;

/** One answer of the item list. */
export interface ItemPage {
  items: ItemLine[];
  total: number;
}

/** The rows of the item table that are in sight, loaded a page at a time. @param base the query that finds them */
export function useItemPages(base: string) {
  const apiPath = useApiPath();
  const [range, setRange] = useState({ first: 0, last: 40 });
  const firstPage = Math.floor(range.first / PAGE);
  const lastPage = Math.floor(range.last / PAGE);
  const wanted = [...new Set([0, ...Array.from({ length: lastPage - firstPage + 1 }, (_, i) => firstPage + i)])];
  const pages = useQueries({
    queries: wanted.map((page) => {
      const path = apiPath(`items?${base}&limit=${PAGE}&cursor=${page * PAGE}`);
      return { queryKey: ["api", path], queryFn: () => apiGet<ItemPage>(path), staleTime: 15_000 };
    }),
  });
  const loaded = new Map(wanted.map((page, i) => [page, pages[i]?.data]));
  const onRange = useCallback((first: number, last: number) => {
    setRange((old) => (old.first === first && old.last === last ? old : { first, last }));
  }, []);
  return {
    total: pages.find((page) => page.data)?.data?.total ?? 0,
    failed: pages.find((page) => page.error)?.error,
    isPending: pages[0]?.isPending ?? true,
    rowAt: (index: number) => loaded.get(Math.floor(index / PAGE))?.items[index % PAGE],
    onRange,
  };
}

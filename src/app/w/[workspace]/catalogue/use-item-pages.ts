"use client";

import type { ItemLine } from "@/server/across/catalogue/items";
import { usePages } from "../../../_lib/use-pages";
import { useApiPath } from "../../../_lib/workspace";
import { itemsPath } from "./asks";

/** One answer of the item list. */
export interface ItemPage {
  items: ItemLine[];
  total: number;
}

const itemsOf = ({ items }: ItemPage) => items;

/** The rows of the item table that are in sight, loaded a page at a time. @param base the query that finds them */
export function useItemPages(base: string) {
  const apiPath = useApiPath();
  const { first, ...pages } = usePages<ItemPage, ItemLine>(
    (offset, limit) => apiPath(itemsPath(base, offset, limit)),
    itemsOf,
  );
  return { total: first?.total ?? 0, ...pages };
}

import { createLoader, parseAsString, parseAsStringLiteral } from "nuqs/server";
import { BID_KINDS, BID_METHODS, type BidKind, type BidMethod } from "@/core/bid-desk/bid-lines";
import type { BidFilter } from "@/server/bids/desk";
import type { Asks } from "../../../_lib/first-answers";
import { PAGE_ROWS } from "../../../_lib/view-defaults";

export const KINDS = Object.keys(BID_KINDS) as [BidKind, ...BidKind[]];
const METHODS = Object.keys(BID_METHODS) as [BidMethod, ...BidMethod[]];

/** What the address of the bid desk holds. */
export const bidsState = {
  kind: parseAsStringLiteral(KINDS).withDefault("item"),
  method: parseAsStringLiteral(METHODS).withDefault("contribution"),
  show: parseAsStringLiteral(["proposed", "all"] as const).withDefault("proposed"),
  q: parseAsString.withDefault(""),
  sort: parseAsString.withDefault("-left"),
};

const load = createLoader(bidsState);

/** The path of a page of bids. */
export const bidsPath = (filter: BidFilter, offset: number, limit: number) =>
  `bids?${new URLSearchParams(filter)}&offset=${offset}&limit=${limit}`;

/** What the bid desk asks first. */
export const asks: Asks = (search) => [bidsPath(load(search), 0, PAGE_ROWS)];

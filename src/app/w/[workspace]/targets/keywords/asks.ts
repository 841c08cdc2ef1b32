import { createLoader, parseAsBoolean, parseAsString, parseAsStringLiteral } from "nuqs/server";
import type { Asks } from "../../../../_lib/first-answers";

/** Which candidates are shown, by whose brand they name. */
export const BRANDS = {
  all: "with and without brands",
  generic: "without our brands",
  own: "with our brands",
} as const;

/** What the address of the desk holds. */
export const keywordsState = {
  category: parseAsString.withDefault(""),
  q: parseAsString.withDefault(""),
  brands: parseAsStringLiteral(Object.keys(BRANDS) as (keyof typeof BRANDS)[]).withDefault("all"),
  /** Hides what is used, blocked or decided against. */
  free: parseAsBoolean.withDefault(true),
};

const load = createLoader(keywordsState);

export const keywordsPath = ({ category }: { category: string }) =>
  `keywords?${new URLSearchParams(category ? { category } : {})}`;

/** What the desk asks first. */
export const asks: Asks = (search) => [keywordsPath(load(search))];

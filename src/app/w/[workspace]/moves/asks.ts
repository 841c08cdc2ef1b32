import { createLoader, parseAsString, parseAsStringLiteral, type inferParserType } from "nuqs/server";
import { PROPOSER_KEYS } from "@/core/proposers/proposers";
import type { Asks } from "../../../_lib/first-answers";

/** Moves that the list holds; more are found by words or kind, and all found can be accepted. */
export const MOST_LISTED = 1000;

export const SHOWN = { open: "to decide", snoozed: "put off", dismissed: "dismissed" } as const;

/** What the address of the list holds. */
export const movesState = {
  kind: parseAsStringLiteral(PROPOSER_KEYS),
  show: parseAsStringLiteral(Object.keys(SHOWN) as (keyof typeof SHOWN)[]).withDefault("open"),
  q: parseAsString.withDefault(""),
};

const load = createLoader(movesState);

type MovesState = inferParserType<typeof movesState>;

/** The query that finds the moves an address is about. */
export const movesQuery = ({ kind, show, q }: MovesState) =>
  new URLSearchParams({ show, ...(kind ? { kind } : {}), ...(q ? { q } : {}) });

/** The path of these moves. */
export const movesPath = (state: MovesState) => `moves?limit=${MOST_LISTED}&${movesQuery(state)}`;

/** The path of the few with the most at stake. */
export const topMovesPath = "moves?limit=4";

/** What the list asks first. */
export const asks: Asks = (search) => [movesPath(load(search))];

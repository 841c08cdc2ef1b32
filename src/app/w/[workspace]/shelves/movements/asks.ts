import { createLoader, parseAsString, type inferParserType } from "nuqs/server";
import { STARTING_SET } from "@/core/shelves/ready-made";
import type { Asks } from "../../../../_lib/first-answers";

/** What the address of the movements holds. */
export const movementsState = {
  set: parseAsString.withDefault(STARTING_SET),
  from: parseAsString,
  to: parseAsString,
  shelf: parseAsString,
};

const load = createLoader(movementsState);

type MovementsState = inferParserType<typeof movementsState>;

/** The query that finds movements between two days. */
export const movementsQuery = ({ from, to, shelf }: MovementsState) =>
  new URLSearchParams(Object.entries({ from, to, shelf }).flatMap(([key, value]) => (value ? [[key, value]] : [])));

/** The path of a set's movements. */
export const movementsPath = (state: MovementsState) => `shelf-sets/${state.set}/moves?${movementsQuery(state)}`;

/** What the movements ask first. */
export const asks: Asks = (search) => ["shelf-sets", movementsPath(load(search))];

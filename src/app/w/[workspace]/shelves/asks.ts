import { createLoader, parseAsBoolean, parseAsString, type inferParserType } from "nuqs/server";
import { STARTING_SET } from "@/core/shelves/ready-made";
import type { Asks } from "../../../_lib/first-answers";

/** What the address of a shelf set holds. */
export const shelvesState = {
  set: parseAsString.withDefault(STARTING_SET),
  edit: parseAsBoolean.withDefault(false),
  on: parseAsString,
};

const load = createLoader(shelvesState);

/** The path of a shelf set, on a day where one is asked for. */
export const shelvesPath = ({ set, on }: Pick<inferParserType<typeof shelvesState>, "set" | "on">) =>
  `shelf-sets/${set}${on ? `?on=${on}` : ""}`;

/** What the shelves ask first. */
export const asks: Asks = (search) => ["shelf-sets", "fields", shelvesPath(load(search))];

import { createLoader, parseAsString, parseAsStringLiteral, type inferParserType } from "nuqs/server";
import type { Asks } from "../../../../_lib/first-answers";

/** What the list can be of, in the order in which it is worked through. */
export const SHOWN = {
  harvest: "To harvest",
  single: "Sold once",
  waste: "Only cost",
  used: "In use",
  blocked: "Blocked",
  dismissed: "Decided against",
  retired: "Retired",
  all: "All",
} as const;
export type Shown = keyof typeof SHOWN;

/** What the address of the list holds. */
export const ledgerState = {
  show: parseAsStringLiteral(Object.keys(SHOWN) as Shown[]).withDefault("harvest"),
  q: parseAsString.withDefault(""),
};

const load = createLoader(ledgerState);

export const ledgerPath = ({ show, q }: inferParserType<typeof ledgerState>) =>
  `ledger?${new URLSearchParams({ show, sort: show === "waste" ? "-cost" : "-aMonth", ...(q ? { q } : {}) })}`;

/** What the list asks first. */
export const asks: Asks = (search) => [ledgerPath(load(search))];

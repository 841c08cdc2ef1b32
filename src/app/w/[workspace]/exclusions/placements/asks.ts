import { TRIAGE, type Triage } from "@/core/exclusions/placements/triage";
import type { PlacementList } from "@/server/exclusions/placements/placements";
import { createLoader, parseAsString, parseAsStringLiteral, type inferParserType } from "nuqs/server";
import type { Asks } from "../../../../_lib/first-answers";

/** What the list can be of, in the order in which it is worked through. */
export const LISTS: readonly PlacementList[] = [
  "new",
  ...(Object.keys(TRIAGE) as Triage[]),
  "judged",
  "kept out",
  "all",
];

export const LIST_LABEL: Record<PlacementList, string> = {
  ...TRIAGE,
  new: "To look at",
  judged: "Judged",
  "kept out": "Kept out",
  all: "All",
};

/** What the address of the list holds. */
export const placementsState = {
  show: parseAsStringLiteral(LISTS).withDefault("new"),
  kind: parseAsString.withDefault(""),
  q: parseAsString.withDefault(""),
};

const load = createLoader(placementsState);

export const placementsPath = ({ show, kind, q }: inferParserType<typeof placementsState>) =>
  `placements?${new URLSearchParams({ show, ...(kind ? { kind } : {}), ...(q ? { q } : {}) })}`;

/** What the list asks first. */
export const asks: Asks = (search) => [placementsPath(load(search))];

"use client";

import { useQueryStates } from "nuqs";
import { useDays } from "../../../_lib/workspace";
import { resultsQuery, resultsState } from "./asks";

/** The view of results as the URL holds it. */
export function useResultsView() {
  const [days] = useDays();
  const [state, setState] = useQueryStates(resultsState);
  return { state, setState, days, ...resultsQuery(state, days) };
}

import type { Asks } from "../../_lib/first-answers";
import { daysOf } from "../../_lib/view-defaults";
import { topMovesPath } from "./moves/asks";

/** What Today asks first. */
export const asks: Asks = (search) => {
  const days = daysOf(search);
  return [
    ...["set-up", `till?days=${days}`, "forgotten", `results?level=shelf&days=${days}`, "shelf-sets"],
    ...["planograms/out-of-step", "asks", topMovesPath],
  ];
};

import { pageWith } from "../../../_lib/first-answers";
import View from "./view";

export default pageWith(View, () => [
  "basket?limit=1",
  "dispatches",
  "basket/approval",
  "channel",
  "dispatches/scheduled",
]);

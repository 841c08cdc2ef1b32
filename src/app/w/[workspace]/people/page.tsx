import { pageWith } from "../../../_lib/first-answers";
import { accessLogPath } from "./asks";
import View from "./view";

export default pageWith(View, () => ["people", "tokens", accessLogPath("", 0)]);

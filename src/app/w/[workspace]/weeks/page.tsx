import { pageWith } from "../../../_lib/first-answers";
import View from "./view";

export default pageWith(View, () => ["weeks"]);

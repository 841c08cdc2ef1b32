import { pageWith } from "../../../_lib/first-answers";
import View from "./view";

export default pageWith(View, () => ["copy-plans", "fields", "shelf-sets", "split-fields"]);

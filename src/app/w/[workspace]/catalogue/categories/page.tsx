import { pageWith } from "../../../../_lib/first-answers";
import { daysOf } from "../../../../_lib/view-defaults";
import View from "./view";

export default pageWith(View, (search) => ["feeds", `categories?days=${daysOf(search)}`]);

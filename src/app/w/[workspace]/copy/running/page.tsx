import { pageWith } from "../../../../_lib/first-answers";
import { daysOf } from "../../../../_lib/view-defaults";
import { adsPath } from "../asks";
import View from "./view";

export default pageWith(View, (search) => [adsPath(daysOf(search))]);

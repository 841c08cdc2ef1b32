import { pageWith } from "../../../../_lib/first-answers";
import { asks } from "./asks";
import View from "./view";

export default pageWith(View, asks);

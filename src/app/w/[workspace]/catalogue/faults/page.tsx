import { pageWith } from "../../../../_lib/first-answers";
import { asidePath } from "./asks";
import View from "./view";

export default pageWith(View, () => ["feeds", asidePath]);

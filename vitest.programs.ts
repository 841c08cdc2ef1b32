import { ensurePrograms } from "./scripts/build.mjs";

/** Some tests start programs of ours, as they are built. */
const makePrograms = () => ensurePrograms(["src/server/runner/fixtures/stubborn-handlers.ts"]);

export default makePrograms;

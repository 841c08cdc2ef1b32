// Serves a production build for the end-to-end tests, with the demo in the data folder that the tests were given.
import { run, serve, typescript } from "./lib.mjs";

await run(process.execPath, typescript("demo/seed.ts"));
serve({ standIns: true });

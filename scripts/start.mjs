// npm start: serves your own workspaces; begins empty, with a first-run guide.
import { ensureBuilt } from "./build.mjs";
import { ensureInstalled, serve } from "./lib.mjs";

const dev = process.argv.includes("--dev");
await ensureInstalled();
if (!dev) await ensureBuilt();
serve({ dev });

// npm run bench [-- --million] [-- --only=import,preview] [-- --salt=abc]: measures and prints a table; JSON goes to bench/out.
import { existsSync } from "node:fs";
import path from "node:path";
import { ensureBuilt, root } from "./build.mjs";
import { ensureInstalled, run } from "./lib.mjs";

await ensureInstalled();
await ensureBuilt();
if (!existsSync(path.join(root, "bench/node_modules"))) {
  console.log("Installing the yardsticks …");
  await run("npm", ["install", "--no-audit", "--no-fund", "--no-package-lock", "--prefix", path.join(root, "bench")]);
}
// The yardsticks' types are only there now, so the bench is checked here and not by npm run check.
await run("npx", ["tsc", "--noEmit", "-p", path.join(root, "bench")]);
await run(process.execPath, [
  "--expose-gc",
  "--import",
  "tsx",
  path.join(root, "bench/run.ts"),
  ...process.argv.slice(2),
]);

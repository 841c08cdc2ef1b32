// npm run demo: serves the Quillmoor workspace, made on first start. --fresh starts over.
import { rmSync } from "node:fs";
import path from "node:path";
import { ensureBuiltWithDemo, root } from "./build.mjs";
import { ensureInstalled, serve, waitForHealth } from "./lib.mjs";

// The demo has a data folder of its own, so that starting over never touches anybody's own data.
const dataDir = process.env.HOTSHELF_DATA_DIR ?? path.join(root, "data", "demo");
const env = { HOTSHELF_DATA_DIR: dataDir };
if (process.argv.includes("--fresh") && process.env.HOTSHELF_DATA_DIR === undefined) {
  rmSync(dataDir, { recursive: true, force: true });
}
await ensureInstalled();
await ensureBuiltWithDemo(env);
const { host, port } = serve({ env, standIns: true });
await waitForHealth(`http://${host}:${port}`);
console.log(`\nHot Shelf is at http://${host}:${port}/w/quillmoor   (Ctrl C stops it)\n`);

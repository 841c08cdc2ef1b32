// npm test: installs what it needs, then type check, lint, unit tests, and the end-to-end tests against a production build.
// --attack runs the long attacks instead of all of these.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { ensureBuiltWithDemo } from "./build.mjs";
import { ensureChromium, ensureInstalled, run } from "./lib.mjs";

const isAttack = process.argv.includes("--attack");
const e2eOnly = isAttack || process.argv.includes("--e2e-only");
const rest = process.argv.slice(2).filter((argument) => argument !== "--e2e-only" && argument !== "--attack");
const config = isAttack ? ["-c", "playwright.attack.config.ts"] : [];

await ensureInstalled();
await ensureChromium();
if (!e2eOnly) {
  await run("npm", ["run", "check"]);
  await run("npm", ["run", "test:unit"]);
}
const dataDir = mkdtempSync(path.join(tmpdir(), "hot-shelf-e2e-"));
try {
  // Where the walks look for it; see e2e/make-demo.ts.
  await ensureBuiltWithDemo({ HOTSHELF_DATA_DIR: path.join(dataDir, "demo") });
  await run("npx", ["playwright", "test", ...config, ...rest], { env: { HOTSHELF_DATA_DIR: dataDir } });
} finally {
  rmSync(dataDir, { recursive: true, force: true });
}

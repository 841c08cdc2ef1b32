// npm test: installs what it needs, then type check, lint, unit tests, and the end-to-end tests against a production build.
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { ensureBuilt } from "./build.mjs";
import { ensureInstalled, run } from "./lib.mjs";

const e2eOnly = process.argv.includes("--e2e-only");
const rest = process.argv.slice(2).filter((argument) => argument !== "--e2e-only");

async function ensureChromium() {
  if (process.env.CHROMIUM_PATH || existsSync("/usr/bin/chromium")) return;
  console.log("Installing Chromium from Debian's packages …");
  const sudo = process.getuid?.() === 0 ? [] : ["sudo"];
  const apt = (args) => {
    const [command, ...before] = [...sudo, "apt-get"];
    return run(command, [...before, ...args], { env: { DEBIAN_FRONTEND: "noninteractive" } });
  };
  await apt(["update"]);
  await apt(["install", "-y", "--no-install-recommends", "chromium"]);
}

await ensureInstalled();
await ensureChromium();
if (!e2eOnly) {
  await run("npm", ["run", "check"]);
  await run("npm", ["run", "test:unit"]);
}
await ensureBuilt();
const dataDir = mkdtempSync(path.join(tmpdir(), "hot-shelf-e2e-"));
try {
  await run("npx", ["playwright", "test", ...rest], { env: { HOTSHELF_DATA_DIR: dataDir } });
} finally {
  rmSync(dataDir, { recursive: true, force: true });
}

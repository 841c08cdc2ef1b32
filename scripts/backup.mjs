// npm run backup and npm run restore: copies of all workspaces, and back. The first argument says which.
import { ensureInstalled, root } from "./lib.mjs";
import { spawnSync } from "node:child_process";

await ensureInstalled();
const { status } = spawnSync(
  process.execPath,
  ["--import", "tsx", "src/server/backup-main.ts", ...process.argv.slice(2)],
  {
    cwd: root,
    stdio: "inherit",
  },
);
process.exitCode = status ?? 1;

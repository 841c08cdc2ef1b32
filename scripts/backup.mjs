// npm run backup and npm run restore: copies of all workspaces, and back. The first argument says which.
import { spawnSync } from "node:child_process";
import { built, ensurePrograms, root } from "./build.mjs";
import { ensureInstalled } from "./lib.mjs";

await ensureInstalled();
await ensurePrograms();
const { status } = spawnSync(process.execPath, [...built("src/server/backup-main.ts"), ...process.argv.slice(2)], {
  cwd: root,
  stdio: "inherit",
});
process.exitCode = status ?? 1;

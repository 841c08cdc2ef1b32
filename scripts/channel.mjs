// npm run channel: a stand-in platform that speaks docs/channel.md, or with --check a channel tried against it.
import { spawnSync } from "node:child_process";
import { built, ensurePrograms, root } from "./build.mjs";
import { ensureInstalled } from "./lib.mjs";

await ensureInstalled();
await ensurePrograms();
const program = built("src/server/channel/stand-in-main.ts");
const { status } = spawnSync(process.execPath, [...program, ...process.argv.slice(2)], { cwd: root, stdio: "inherit" });
process.exitCode = status ?? 1;

import { spawn } from "node:child_process";
import path from "node:path";
import { fileURLToPath } from "node:url";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

/** Runs a command to its end; the promise rejects when it fails. */
export function run(command, args, { env, quiet = false } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd: root,
      stdio: quiet ? ["ignore", "ignore", "inherit"] : "inherit",
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", ...env },
    });
    child.on("error", reject);
    child.on("exit", (code) =>
      code === 0 ? resolve() : reject(new Error(`${command} ${args.join(" ")} ended with ${code}`)),
    );
  });
}

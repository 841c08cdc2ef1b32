import { spawn, type ChildProcess } from "node:child_process";
import { once } from "node:events";
import { writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { afterEach, describe, expect, it } from "vitest";
import { dataDir } from "../settings";
import { takeLock } from "./lock";

const open: { child: ChildProcess; hasLock: () => boolean }[] = [];
afterEach(() => {
  for (const { child } of open.splice(0)) child.kill("SIGKILL");
});

/** A process that takes the lock, says so, and holds it. */
function holder() {
  const code =
    'import("./src/server/jobs/lock.ts").then(async ({ takeLock }) => { await takeLock(); console.log("mine"); setInterval(() => {}, 1000); });';
  const child = spawn(process.execPath, ["--import", "tsx", "-e", code], {
    stdio: ["ignore", "pipe", "inherit"],
    env: { ...process.env, HOTSHELF_DATA_DIR: dataDir(), LOG_LEVEL: "silent" },
  });
  let said = "";
  child.stdout.on("data", (text: Buffer) => (said += text.toString()));
  const one = { child, hasLock: () => said.includes("mine") };
  open.push(one);
  return one;
}

async function until(holds: () => boolean): Promise<void> {
  for (let i = 0; i < 400 && !holds(); i++) await sleep(50);
  expect(holds()).toBe(true);
}

describe("the runner's lock", () => {
  it("is held by one of several that start at once, and by another one when that is killed", async () => {
    // What a killed runner of an earlier version left, with a number that lives again: this process's own.
    writeFileSync(path.join(dataDir(), "runner.lock"), String(process.pid));
    const all = [holder(), holder(), holder()];
    await until(() => all.some(({ hasLock }) => hasLock()));
    await sleep(1500);
    expect(all.filter(({ hasLock }) => hasLock())).toHaveLength(1);
    const first = all.find(({ hasLock }) => hasLock())!;
    first.child.kill("SIGKILL");
    await once(first.child, "exit");
    const rest = all.filter((one) => one !== first);
    await until(() => rest.some(({ hasLock }) => hasLock()));
    await sleep(1500);
    expect(rest.filter(({ hasLock }) => hasLock())).toHaveLength(1);
  });

  it("is given back at the end", async () => {
    const lock = await takeLock();
    const waiting = holder();
    await sleep(1500);
    expect(waiting.hasLock()).toBe(false);
    await lock.release();
    await until(() => waiting.hasLock());
  });
});

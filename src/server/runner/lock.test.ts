import { hostname } from "node:os";
import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { describe, expect, it } from "vitest";
import { dataDir } from "../settings";
import { holdsLock, takeLock } from "./lock";

const NOW = 1_000_000_000;
const here = hostname();
const file = () => path.join(dataDir(), "runner.lock");

describe("the runner's lock", () => {
  it("is held by a process that lives, not by another one that was given its number", async () => {
    const child = spawn("sleep", ["20"]);
    await once(child, "spawn");
    const pid = child.pid!;
    const stat = readFileSync(`/proc/${pid}/stat`, "utf8");
    const started = stat.slice(stat.lastIndexOf(")") + 2).split(" ")[19]!;
    expect(await holdsLock({ pid, host: here, started }, NOW, NOW)).toBe(true);
    // Years silent, and yet alive: the number and its start are decisive here.
    expect(await holdsLock({ pid, host: here, started }, 0, NOW)).toBe(true);
    expect(await holdsLock({ pid, host: here, started: "12" }, NOW, NOW)).toBe(false);
    child.kill("SIGKILL");
    await once(child, "exit");
    expect(await holdsLock({ pid, host: here, started }, NOW, NOW)).toBe(false);
  });

  it("of another machine is held while it beats; one that can't be read is held by nobody", async () => {
    const owner = { pid: 1, host: "elsewhere.example", started: "5" };
    expect(await holdsLock(owner, NOW - 30_000, NOW)).toBe(true);
    expect(await holdsLock(owner, NOW - 90_000, NOW)).toBe(false);
    expect(await holdsLock(null, NOW, NOW)).toBe(false);
  });

  it("left by a process that may not be signalled is held: it lives", async () => {
    // The first process is another account's, or this test runs as the one that may signal all; it lives either way.
    const stat = readFileSync("/proc/1/stat", "utf8");
    const started = stat.slice(stat.lastIndexOf(")") + 2).split(" ")[19]!;
    expect(await holdsLock({ pid: 1, host: here, started }, 0, NOW)).toBe(true);
  });

  it("of a runner that is gone is taken over, and given back at the end", async () => {
    writeFileSync(file(), JSON.stringify({ pid: process.pid + 1, host: here, started: "1" }));
    const lock = await takeLock();
    expect(JSON.parse(readFileSync(file(), "utf8"))).toMatchObject({ pid: process.pid, host: here });
    await lock.release();
    expect(existsSync(file())).toBe(false);
    // What is no lock any more is not waited for for ever.
    writeFileSync(file(), "4711");
    await sleep(1100);
    await (await takeLock()).release();
  });
});

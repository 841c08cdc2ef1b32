import { spawn } from "node:child_process";
import { describe, expect, it } from "vitest";
import { keepRunning, WRONG_SETUP } from "../../scripts/keep.mjs";

const program = (code: string) => spawn(process.execPath, ["-e", code], { stdio: "ignore" });

/** Keeps a program running until it is given up. @returns how often it was started, and the code it ended with */
function untilGivenUp(code: string, most: number): Promise<{ starts: number; code: number; how: string }> {
  return new Promise((resolve) => {
    let starts = 0;
    const start = () => {
      starts++;
      return program(code);
    };
    keepRunning(start, { most, within: 60_000, pause: 5 }, (ended, how) => resolve({ starts, code: ended, how }));
  });
}

describe("a process that is kept running", () => {
  it("is started again when it is killed, and ends with its own code when it can't stay", async () => {
    expect(await untilGivenUp("process.kill(process.pid, 'SIGKILL')", 3)).toEqual({
      starts: 4,
      code: 70,
      how: "by SIGKILL",
    });
    expect(await untilGivenUp("process.exit(3)", 2)).toEqual({ starts: 3, code: 3, how: "with code 3" });
  });

  it("is not started again when it is set up wrongly, or stopped on purpose", async () => {
    expect(await untilGivenUp(`process.exit(${WRONG_SETUP})`, 3)).toMatchObject({ starts: 1, code: WRONG_SETUP });
    let starts = 0;
    const kept = keepRunning(() => {
      starts++;
      return program("setTimeout(() => {}, 60000)");
    });
    const ended = new Promise((resolve) => kept.now().on("exit", resolve));
    kept.stop("SIGKILL");
    await ended;
    await new Promise((resolve) => setTimeout(resolve, 60));
    expect(starts).toBe(1);
  });

  it("goes on where a killed one is another one now", async () => {
    const kept = keepRunning(() => program("setTimeout(() => {}, 60000)"));
    const first = kept.now();
    await new Promise((resolve) => first.on("spawn", resolve));
    first.kill("SIGKILL");
    while (kept.now() === first) await new Promise((resolve) => setTimeout(resolve, 5));
    expect(kept.now().exitCode).toBeNull();
    kept.stop("SIGKILL");
  });
});

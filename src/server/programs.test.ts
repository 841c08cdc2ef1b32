import { existsSync, readdirSync } from "node:fs";
import path from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { built, programsFolder } from "../../scripts/build.mjs";
import { programOf } from "./programs";
import { forgetSettings } from "./settings";

const root = path.resolve(import.meta.dirname, "../..");
const from = (folder: string | undefined) => {
  vi.stubEnv("HOTSHELF_PROGRAMS", folder);
  forgetSettings();
  return programOf("src/server/runner/main.ts");
};

afterEach(() => {
  vi.unstubAllEnvs();
  forgetSettings();
});

describe("programs", () => {
  it("are run as they are built where the start script says so, else from their sources", () => {
    expect(from("/somewhere")).toEqual({
      file: "/somewhere/src/server/runner/main.js",
      execArgv: ["--enable-source-maps"],
    });
    expect(from(undefined)).toEqual({
      file: path.join(root, "src/server/runner/main.ts"),
      execArgv: ["--import", "tsx"],
    });
  });

  it("are built wherever a process begins: every main file of the server, and the demo's own", () => {
    const mains = readdirSync(path.join(root, "src/server"), { recursive: true, encoding: "utf8" })
      .filter((file) => /(^|[/-])main\.ts$/.test(file))
      .map((file) => path.join("src/server", file));
    expect(mains).toContain("src/server/web/main.ts");
    for (const source of [...mains, "src/server/runner/handlers.ts", "demo/seed.ts", "demo/stand-ins.ts"]) {
      const file = built(source).at(-1)!;
      expect(path.relative(programsFolder, file)).toBe(source.replace(/\.ts$/, ".js"));
      expect(existsSync(file), `${source} is not among the programs of scripts/build.mjs`).toBe(true);
    }
  });
});

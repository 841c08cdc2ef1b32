import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { ESLint } from "eslint";
import { describe, expect, it } from "vitest";

/** The lint rule that keeps imports pointing one way, shown to bite. */
describe("layers", () => {
  const eslint = new ESLint();
  const lint = async (file: string, code: string) => {
    const [result] = await eslint.lintText(code, { filePath: file });
    return result!.messages.filter(({ ruleId }) => ruleId === "no-restricted-imports").length;
  };
  it.each([
    ["src/core/shelves/x.ts", 'import { log } from "@/server/log";'],
    ["src/core/shelves/x.ts", 'import { log } from "../../server/log";'],
    ["src/core/shelves/x.ts", 'import { readFile } from "node:fs/promises";'],
    ["src/core/kit/x.ts", 'import React from "react";'],
    ["src/core/kit/x.ts", 'import { eq } from "drizzle-orm";'],
    ["src/server/shelves/x.ts", 'import { Button } from "@/ui/button";'],
    ["src/server/shelves/x.ts", 'import { redirect } from "next/navigation";'],
    ["src/db/x.ts", 'import { log } from "@/server/log";'],
    ["src/ui/x.tsx", 'import { findItems } from "@/server/across/catalogue/items";'],
    ["src/app/x.tsx", 'import { items } from "@/db/schema";'],
  ])("%s may not have %s", async (file, code) => expect(await lint(file, `${code}\n`)).toBe(1));

  it.each([
    ["src/core/shelves/x.ts", 'import { mills } from "../kit/money";'],
    ["src/server/shelves/x.ts", 'import { items } from "@/db/schema";'],
    ["src/app/x.tsx", 'import { Button } from "@/ui/button";'],
  ])("%s may have %s", async (file, code) => expect(await lint(file, `${code}\n`)).toBe(0));
});

/** Source files below a folder, tests and what only they use left out. */
function sources(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && /\.tsx?$/.test(entry.name) && !/\.test\.|^test-|testing/.test(entry.name))
    .map((entry) => path.join(entry.parentPath, entry.name));
}

/** What each file imports of the others. */
function importsAmong(files: string[]): Map<string, string[]> {
  const known = new Set(files);
  const resolve = (from: string, spec: string) => {
    const base = spec.startsWith("@/") ? path.join("src", spec.slice(2)) : path.join(path.dirname(from), spec);
    return [".ts", ".tsx", "/index.ts"].map((end) => base + end).find((file) => known.has(file));
  };
  return new Map(
    files.map((file) => {
      const specs = [...readFileSync(file, "utf8").matchAll(/from "((?:\.|@\/)[^"]+)"/g)].map((found) => found[1]!);
      return [file, specs.flatMap((spec) => resolve(file, spec) ?? [])];
    }),
  );
}

/** A way through a graph that ends where it began, or null. */
function circleIn(arrows: ReadonlyMap<string, Iterable<string>>): string[] | null {
  const done = new Set<string>();
  const walk = (at: string, way: string[]): string[] | null => {
    if (way.includes(at)) return [...way.slice(way.indexOf(at)), at];
    if (done.has(at)) return null;
    for (const next of arrows.get(at) ?? []) {
      const circle = walk(next, [...way, at]);
      if (circle) return circle;
    }
    done.add(at);
    return null;
  };
  for (const at of arrows.keys()) {
    const circle = walk(at, []);
    if (circle) return circle;
  }
  return null;
}

describe("imports", () => {
  it.each(["src/server", "src/core"])("between the rooms of %s run one way", (layer) => {
    const rooms = new Map<string, Set<string>>();
    const roomOf = (file: string) => file.split("/")[2]!;
    for (const [file, targets] of importsAmong(sources(layer))) {
      const room = roomOf(file);
      const above = rooms.get(room) ?? new Set<string>();
      for (const target of targets) if (roomOf(target) !== room) above.add(roomOf(target));
      rooms.set(room, above);
    }
    expect(rooms.size).toBeGreaterThan(8);
    expect(circleIn(rooms)).toBeNull();
  });

  it("of single files never lead back to where they began, and a circle would be found", () => {
    const files = importsAmong(sources("src"));
    expect(files.size).toBeGreaterThan(200);
    expect(circleIn(files)).toBeNull();
    const [first] = [...files].find(([, targets]) => targets.length > 0)!;
    const target = files.get(first)![0]!;
    files.set(target, [...files.get(target)!, first]);
    expect(circleIn(files)).not.toBeNull();
  });
});

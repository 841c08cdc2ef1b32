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
    ["src/ui/x.tsx", 'import { findItems } from "@/server/catalogue/items";'],
    ["src/app/x.tsx", 'import { items } from "@/db/schema";'],
  ])("%s may not have %s", async (file, code) => expect(await lint(file, `${code}\n`)).toBe(1));

  it.each([
    ["src/core/shelves/x.ts", 'import { mills } from "../kit/money";'],
    ["src/server/shelves/x.ts", 'import { items } from "@/db/schema";'],
    ["src/app/x.tsx", 'import { Button } from "@/ui/button";'],
  ])("%s may have %s", async (file, code) => expect(await lint(file, `${code}\n`)).toBe(0));
});

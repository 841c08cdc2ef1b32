import { describe, expect, it } from "vitest";
import { findGuides, guidesBeside, readGuide } from "@/core/guide/guide";
import { loadGuides } from "./guides";

describe("the guide", () => {
  it("has at least ten jobs, each of numbered steps that say what to look for and end with a way there", async () => {
    const guides = await loadGuides();
    expect(guides.length).toBeGreaterThanOrEqual(10);
    expect(new Set(guides.map(({ title }) => title)).size).toBe(guides.length);
    for (const { key, text } of guides) {
      const steps = text.split("\n").filter((line) => line !== "");
      expect(steps.length, key).toBeGreaterThanOrEqual(3);
      steps.forEach((step, at) => {
        expect(step, key).toMatch(new RegExp(`^${at + 1}\\. `));
        expect(step, key).toMatch(/\*\*[^*]+\*\*/);
        expect(step, key).toMatch(/ \[[^\]]+\]\([a-zA-Z0-9/?=&-]*\)$/);
      });
    }
  });

  it("is found by what one may call the job, and offered beside its pages", async () => {
    const guides = await loadGuides();
    const keys = (text: string) => findGuides(guides, text).map(({ key }) => key);
    expect(keys("audit")).toEqual(["stocktake"]);
    expect(keys("new prod")).toEqual(["launch"]);
    expect(keys("")).toEqual([]);
    expect(keys("zebra")).toEqual([]);
    expect(guidesBeside(guides, "stocktake").here.map(({ key }) => key)).toEqual(["stocktake"]);
    expect(guidesBeside(guides, "").here.map(({ key }) => key)).toContain("first-structure");
    const { here, others } = guidesBeside(guides, "budgets");
    expect(here.length + others.length).toBe(guides.length);
  });

  it("names a file that lacks something", () => {
    expect(() => readGuide("x", "1. Do it")).toThrow("x does not begin with its title");
    expect(() => readGuide("x", "---\ntitle: T\npages: a\n---\n1. Do it")).toThrow("x has no when");
  });
});

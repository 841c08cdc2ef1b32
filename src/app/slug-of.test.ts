import { describe, expect, it } from "vitest";
import { freeSlug, slugOf } from "./slug-of";

describe("short names of workspaces", () => {
  it("keep letters, digits and hyphens", () => {
    expect(slugOf("Gärten & Söhne (2026).csv")).toBe("garten-sohne-2026-csv");
    expect(slugOf("– –")).toBe("shop");
    expect(slugOf(`${"a".repeat(39)} b`)).toBe("a".repeat(39));
  });

  it("count on where one is taken, and stay within forty letters", () => {
    expect(freeSlug("Terms", new Set())).toBe("terms");
    expect(freeSlug("Terms", new Set(["terms", "terms-2"]))).toBe("terms-3");
    const long = "b".repeat(40);
    expect(freeSlug(long, new Set([long]))).toBe(`${"b".repeat(38)}-2`);
  });
});

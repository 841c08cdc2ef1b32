import { describe, expect, it } from "vitest";
import { aimTold, type AimHints } from "./aim-told";

const HINTS: AimHints = {
  kindOf: (place) => (place.startsWith("L") ? "listing" : place === "?" ? null : "term"),
  isOwnBrand: (term) => term.includes("quillmoor"),
  roleOf: (listing) => (({ L1: "rival", L2: "companion", L3: "own" }) as const)[listing],
  isOwnPage: (listing) => listing === "L4",
};

describe("what a line was aimed at", () => {
  it.each([
    ["quillmoor rake", "own brand searches"],
    ["garden rake", "other searches"],
    ["L1", "rival pages"],
    ["L2", "companion pages"],
    ["L3", "own pages"],
    ["L4", "own pages"],
    ["L5", "other pages"],
    ["?", undefined],
    ["", undefined],
  ])("%j is %s", (place, aim) => expect(aimTold(place, HINTS)).toBe(aim));
});

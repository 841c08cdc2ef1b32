import { describe, expect, it } from "vitest";
import { noteOwnVersion, versionInMind } from "./own-versions";

describe("versions that one's own edits made", () => {
  it("count as seen while the screen is behind them", () => {
    noteOwnVersion("one", 8);
    noteOwnVersion("one", 9);
    expect(versionInMind("one", 7)).toBe(9);
    expect(versionInMind("one", 8)).toBe(9);
    expect(versionInMind("one", 9)).toBe(9);
  });

  it("do not count where somebody else changed something between them", () => {
    noteOwnVersion("two", 8);
    noteOwnVersion("two", 10);
    // Version 9 is another's: who has 7 or 8 on screen has not seen it.
    expect(versionInMind("two", 7)).toBe(7);
    expect(versionInMind("two", 8)).toBe(8);
    expect(versionInMind("two", 9)).toBe(10);
  });

  it("end with what is newer on screen, older than them, or of another workspace", () => {
    noteOwnVersion("three", 8);
    expect(versionInMind("three", 12)).toBe(12);
    expect(versionInMind("three", 3)).toBe(3);
    expect(versionInMind("four", 7)).toBe(7);
  });
});

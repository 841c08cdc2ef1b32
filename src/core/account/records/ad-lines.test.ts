import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { linesAsText, linesFromText, type AdLine } from "./ad-lines";
import type { Part } from "../../parts/part";

describe("lines in a cell of a file", () => {
  it("read as people would write them", () => {
    expect(linesFromText("[title] now [price] | Best of [ brand ]||")).toEqual([
      [
        { kind: "field", field: "title" },
        { kind: "text", text: " now " },
        { kind: "field", field: "price" },
      ],
      [
        { kind: "text", text: "Best of " },
        { kind: "field", field: "brand" },
      ],
    ]);
    expect(linesFromText("  ")).toEqual([]);
    expect(linesFromText("5\\|6 \\[x\\]")).toEqual([[{ kind: "text", text: "5|6 [x]" }]]);
  });

  it("say what is wrong with a cell", () => {
    expect(linesFromText("[title")).toContain("never closes");
    expect(linesFromText("title]")).toContain("never opened");
    expect(linesFromText("a [ ] b")).toContain("without a name");
  });

  it("come back as they went out (property)", () => {
    const text = fc
      .string({ minLength: 1, maxLength: 12, unit: fc.constantFrom(..."ab [\\]|é ") })
      .map((made): Part => ({ kind: "text", text: made }));
    const field = fc.constantFrom("title", "own colour").map((name): Part => ({ kind: "field", field: name }));
    // Two texts in a row are one, and spaces at the ends of a line do not count.
    const line = fc.array(fc.tuple(field, text), { minLength: 1, maxLength: 3 }).map((pairs): AdLine => {
      const parts = pairs.flat();
      return [...parts, { kind: "field", field: "end" }];
    });
    fc.assert(
      fc.property(fc.array(line, { maxLength: 4 }), (lines) => {
        expect(linesFromText(linesAsText(lines))).toEqual(lines);
      }),
    );
  });
});

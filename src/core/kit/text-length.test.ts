import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { charactersOf, isSimple, textLength } from "./text-length";

describe("the length of a text", () => {
  it("counts what people see as one character once", () => {
    expect(textLength("Übertopf")).toBe(8);
    expect(textLength("e\u0301te\u0301")).toBe(3);
    expect(textLength("👩‍🌾🌱")).toBe(2);
    expect(textLength("🇩🇪🇫🇷")).toBe(2);
    expect(textLength("a\r\nb")).toBe(3);
    expect(textLength("")).toBe(0);
  });

  it("counts wide signs twice where the channel does", () => {
    expect([textLength("園芸 Ｗ", true), textLength("園芸 Ｗ")]).toEqual([7, 4]);
    expect(textLength("한글ab", true)).toBe(6);
  });

  it("agrees with the segmenter on every text (property)", () => {
    const slow = new Intl.Segmenter("und", { granularity: "grapheme" });
    const common = fc.stringMatching(/^[ -~\u00a0-\u02ff\u2010-\u2027\u2030-\u205e\u20a0-\u20bf]{0,30}$/);
    fc.assert(
      fc.property(fc.oneof(common, fc.string({ unit: "binary", maxLength: 30 })), (text) => {
        expect(textLength(text)).toBe([...slow.segment(text)].length);
        expect(charactersOf(text).join("")).toBe(text);
        if (isSimple(text)) expect(textLength(text)).toBe(text.length);
      }),
    );
  });
});

import { describe, expect, it } from "vitest";
import { LIMITS } from "@/core/catalogue/limits";
import { partParser } from "./workbook";

/** What a part says, in one line: `<name` and `name>` for elements, texts as they are. */
function said(xml: string): string {
  const all: string[] = [];
  const parser = partParser({
    open: (name, { r }) => all.push(`<${name}${r ? ` ${r}` : ""}`),
    close: (name) => all.push(`${name}>`),
    text: (text) => all.push(text),
  });
  parser.write(xml).close();
  return all.join(" ");
}

describe("a part of a workbook", () => {
  it("is read without the prefixes of its names", () => {
    expect(said('<x:row r="3"><x:c r="B3"><x:v>7</x:v></x:c></x:row>')).toBe("<row 3 <c B3 <v 7 v> c> row>");
  });

  it("is read without the readings written above its texts, and goes on after them", () => {
    const cell =
      "<is><t>庭</t><rPh sb='0' eb='1'><t>にわ</t></rPh><t>箒</t><rPh sb='1' eb='2'><t>ほうき</t></rPh></is>";
    expect(said(`<c>${cell}<v>1</v></c>`)).toBe("<c <is <t 庭 t> <t 箒 t> is> <v 1 v> c>");
  });

  it("that declares entities, or nests without end, is refused", () => {
    expect(() => said('<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>')).toThrow(/DOCTYPE/);
    const deep = LIMITS.depth + 1;
    expect(() => said("<a>".repeat(deep) + "</a>".repeat(deep))).toThrow(/deeper than/);
    expect(said("<a>".repeat(LIMITS.depth) + "</a>".repeat(LIMITS.depth))).toContain("<a");
  });
});

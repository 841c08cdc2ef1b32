import { describe, expect, it } from "vitest";
import { readPasted } from "./paste-dialog";

const idsOf = (text: string) => readPasted(text).lines.map(({ id }) => id);

describe("what is pasted into the catalogue", () => {
  it.each([
    ["Q1, Q2, Q3"],
    ["Q1\nQ2\nQ3"],
    ["Q1;Q2;Q3"],
    ["Q1\tQ2\tQ3"],
    ["item id\nQ1\nQ2\nQ3\n"],
    ['"Q1","Q2"\n"Q3"'],
    ["Q1, Q2\nQ3"],
  ])("%j is a list of IDs, all of them", (text) => expect(idsOf(text)).toEqual(["Q1", "Q2", "Q3"]));

  it("with named columns sets what they say, and names the cells that can't be read", () => {
    const { lines, has, unread } = readPasted("sku\tbid\tnote\nQ1\t0,45\tsoon\nQ2\task\t\nQ3\t1.299\t\n");
    expect(lines).toEqual([{ id: "Q1", bid: 450, note: "soon" }, { id: "Q2" }, { id: "Q3" }]);
    expect([...has].sort()).toEqual(["bid", "note"]);
    expect(unread).toEqual(["row 3: ask", "row 4: 1.299"]);
  });
});

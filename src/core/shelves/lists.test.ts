import { describe, expect, it } from "vitest";
import { listEffect, listOfIds } from "./lists";
import { fitLabel, labelClashes, labelsXml } from "./label-feed";
import { inOrder } from "./references";
import { blankSet } from "./ready-made";

const known = (id: string) => ["a-1", "b-2", "c-3", "two words"].includes(id.toLowerCase());
const plain = (id: string) => id.toLowerCase();
const ids = (text: string) => listOfIds(text, known).map(({ id }) => id);

describe("pasted lists", () => {
  it.each([
    ["one a line", "A-1\nB-2\r\nC-3"],
    ["with commas", "A-1, B-2,C-3"],
    ["with semicolons and quotes", '"A-1";"B-2";\'C-3\''],
    ["as a row of a spreadsheet", "A-1\tB-2\tC-3"],
    ["with spaces", "A-1 B-2 C-3"],
    ["with a heading", "Item ID\nA-1\nB-2\nC-3\n\n"],
  ])("are read %s", (_, text) => {
    expect(ids(text)).toEqual(["A-1", "B-2", "C-3"]);
  });

  it("keep an ID with spaces whole where the catalogue has it, and unknown ones for when they come", () => {
    expect(ids("two words\nZ-9\nnot known either")).toEqual(["two words", "Z-9", "not known either"]);
  });

  it("read days beside an ID", () => {
    expect(listOfIds("A-1, 2026-12-01, 2026-12-24\nB-2\t2027-01-01\nC-3", known)).toEqual([
      { id: "A-1", from: "2026-12-01", until: "2026-12-24" },
      { id: "B-2", from: "2027-01-01", until: null },
      { id: "C-3", from: null, until: null },
    ]);
  });

  it("say what they add and take off before they do", () => {
    expect(listEffect(["A-1", "B-2"], ["b-2", "C-3"], "replace", plain)).toEqual({
      added: ["C-3"],
      removed: ["A-1"],
      kept: ["B-2"],
    });
    expect(listEffect(["A-1", "B-2"], ["b-2", "C-3"], "add", plain)).toEqual({
      added: ["C-3"],
      removed: [],
      kept: ["A-1", "B-2"],
    });
    expect(listEffect(["A-1", "B-2"], ["b-2", "C-3"], "remove", plain)).toEqual({
      added: [],
      removed: ["B-2"],
      kept: ["A-1"],
    });
  });
});

describe("labels", () => {
  it("are cut to what a channel takes, at a word where there is one", () => {
    expect(fitLabel("Best in the store")).toBe("Best in the store");
    expect(fitLabel("Best in the store and neglected by all ads so far")).toBe(
      "Best in the store and neglected by all",
    );
    expect(fitLabel("x".repeat(50))).toBe("x".repeat(40));
  });

  it("clash where two can't be told apart", () => {
    const column = (name: string, setKey: string, shelves: string[]) => ({
      name,
      setKey,
      setName: setKey.toUpperCase(),
      shelves,
    });
    expect(labelClashes([column("label_0", "a", ["Hot", "Cold"]), column("label_1", "b", ["x"])])).toEqual([]);
    expect(labelClashes([column("label", "a", ["Hot"]), column("Label", "a", ["Hot"])])).toHaveLength(2);
    const long = "y".repeat(40);
    expect(labelClashes([column("l", "a", [`${long}1`, `${long}2`])])[0]).toContain("once cut to 40 characters");
  });

  it("are written so that every reader takes them", () => {
    expect(labelsXml(["id", "my label"], [["A&<1>", 'Hot "one"\u0000']])).toContain(
      "<item><id>A&amp;&lt;1&gt;</id><my_label>Hot &quot;one&quot;</my_label></item>",
    );
  });
});

describe("sets that ask about others", () => {
  const asking = (key: string, ...others: string[]) =>
    blankSet(
      key,
      key,
      3,
      others.map((other) => ({
        ...{
          kind: "rule" as const,
          key: `of-${other}`,
          name: other,
          heat: null,
          goal: null,
          note: "",
          lookAgain: null,
        },
        where: { match: "all" as const, of: [{ field: `shelf:${other}`, op: "is" as const, value: "x" }] },
      })),
    );

  it("come after those, and a circle is named", () => {
    const { order, circle } = inOrder([asking("c", "b"), asking("b", "a"), asking("a")]);
    expect([order.map(({ key }) => key), circle]).toEqual([["a", "b", "c"], []]);
    const round = inOrder([asking("a", "b"), asking("b", "a"), asking("c"), asking("d", "a")]);
    expect([round.order.map(({ key }) => key), round.circle.map(({ key }) => key)]).toEqual([["c"], ["a", "b", "d"]]);
  });
});

import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cellText, numberColumn, textColumn, type Columns } from "../../kit/columns";
import { findWord, isOneSlip, listEntries } from "../../kit/words";
import { matchRows, textTest, type Where } from "../where";
import { derivedColumn, type DerivedField, type Output } from "./derived-field";
import { evaluateField, indexLists, NO_RULE } from "./evaluate";
import { orderFields } from "./order";
import { previewField } from "./preview";
import { compileStep, patternFault, type Step } from "../../parts/steps";

const ALL: Where = { match: "all", of: [] };
const has = (word: string): Where => ({ match: "all", of: [{ field: "title", op: "has-word", value: word }] });
const out = (parts: Output["parts"], steps: Output["steps"] = []): Output => ({ parts, by: " ", steps });
const field = (rules: DerivedField["rules"], more: Partial<DerivedField> = {}): DerivedField => ({
  ...{ key: "f", name: "F", kind: "text", secondName: "", replaces: null, rules },
  ...more,
});

const TABLE: Columns = {
  length: 5,
  columns: {
    title: textColumn([
      "Rose hose 15 m",
      "Primrose seeds, 0.5 g packet",
      "RED ROSE BUSH IN POT",
      "Hoze of copper 2,5 m",
      "Gift card",
    ]),
    brand: textColumn(["Thornlea", "", "Ottersby", "thornlea", ""]),
    price: numberColumn([12_900, 1900, null, 40_000, 10_000]),
    code: textColumn(["R1", "G2", "R1", "", "X"]),
  },
};

const SETTINGS = {
  lists: indexLists([
    {
      key: "colors",
      name: "Colors",
      rows: [
        ["r1", "red", "Signal red"],
        ["G2", "green", "Moss green"],
        ["R1", "never", "never"],
      ],
    },
  ]),
  isMoney: (name: string) => name === "price",
};

const values = (made: DerivedField) => {
  const [column] = evaluateField(TABLE, made, SETTINGS).columns;
  return Array.from({ length: TABLE.length }, (_, row) => cellText(column!, row));
};

describe("whole words", () => {
  it("are found only where nothing of a word stands beside them", () => {
    expect([findWord("a rose bush", "rose"), findWord("primrose", "rose"), findWord("rose", "rose")]).toEqual([
      2, -1, 0,
    ]);
    expect([findWord("primrose rose", "rose"), findWord("rosé wine", "ros"), findWord("50% off", "50%")]).toEqual([
      9, -1, 0,
    ]);
  });

  it("agree with an obvious slower way", () => {
    const letters = fc.string({ unit: fc.constantFrom("a", "b", "é", "1", " ", "-"), maxLength: 20 });
    fc.assert(
      fc.property(
        letters,
        fc.string({ unit: fc.constantFrom("a", "b", "é"), minLength: 1, maxLength: 3 }),
        (text, word) => {
          const slow = text.split(/[^\p{L}\p{N}]+/u).includes(word);
          expect(findWord(text, word) >= 0).toBe(slow);
        },
      ),
    );
  });

  it("one slip away are told from those two away", () => {
    expect(["tomatoe", "tomto", "tmoato", "tomata"].map((word) => isOneSlip(word, "tomato"))).toEqual([
      true,
      true,
      true,
      true,
    ]);
    expect(["tomato", "tmatoo", "potato", "tomat"].map((word) => isOneSlip(word, "tomato"))).toEqual([
      false,
      false,
      false,
      true,
    ]);
  });

  it("are read from lists with lines, commas or semicolons", () => {
    expect(listEntries(" a, b;a ,")).toEqual(["a", "b"]);
    expect(listEntries("one, two\nthree\n")).toEqual(["one, two", "three"]);
  });
});

describe("conditions that stack", () => {
  const rows = (where: Where) => [...matchRows(TABLE, where)].join("");
  it("hold all, any, and groups inside groups", () => {
    const thornlea = { field: "brand", op: "is" as const, value: "Thornlea" };
    const dear = { field: "price", op: "at-least" as const, value: "10000" };
    expect(rows({ match: "all", of: [thornlea, dear] })).toBe("10010");
    expect(rows({ match: "any", of: [thornlea, dear] })).toBe("10011");
    expect(rows({ match: "all", of: [dear, { match: "any", of: [thornlea, { ...dear, op: "at-most" }] }] })).toBe(
      "10011",
    );
    expect(rows({ match: "any", of: [] })).toBe("11111");
    expect(rows({ match: "all", of: [{ field: "gone", op: "empty", value: "" }] })).toBe("00000");
  });

  it("take words as any of, all of, none of", () => {
    const test = (op: "has-word" | "has-all-words" | "lacks-word", value: string) =>
      textTest(op, value)("red rose bush in pot");
    expect([
      test("has-word", "rose, hose"),
      test("has-all-words", "rose, hose"),
      test("has-all-words", "rose\npot"),
    ]).toEqual([true, false, true]);
    expect([test("lacks-word", "hose"), test("lacks-word", "pot, hose"), test("has-all-words", "")]).toEqual([
      true,
      false,
      false,
    ]);
  });

  it("by De Morgan agree with themselves turned around", () => {
    const condition = fc.record({
      field: fc.constantFrom("title", "brand", "code"),
      op: fc.constantFrom("is" as const, "contains" as const, "empty" as const),
      value: fc.constantFrom("", "r", "Thornlea", "G2"),
    });
    const turned = { is: "is-not", contains: "lacks", empty: "filled" } as const;
    fc.assert(
      fc.property(fc.array(condition, { minLength: 1, maxLength: 4 }), (of) => {
        const none = { match: "all" as const, of: of.map(({ op, ...rest }) => ({ ...rest, op: turned[op] })) };
        const any = matchRows(TABLE, { match: "any", of });
        expect([...matchRows(TABLE, none)]).toEqual([...any].map((hit) => 1 - hit));
      }),
    );
  });
});

describe("steps", () => {
  const context = { lookUp: () => undefined, number: () => 4 };
  const run = (step: Step, text: string) => compileStep(step)(text, context);
  it.each<[Step, string, string]>([
    [{ do: "take-characters", from: 2, count: 3 }, "abcdef", "bcd"],
    [{ do: "take-characters", from: -2, count: 0 }, "abc🌻d", "🌻d"],
    [{ do: "take-words", from: 1, count: 2 }, "Rose, hose - green", "Rose hose"],
    [{ do: "take-words", from: -1, count: 1 }, "Hose 1.5 m", "m"],
    [{ do: "take-between", after: "(", before: ")" }, "Hose (green) new", "green"],
    [{ do: "take-between", after: "[", before: "]" }, "Hose (green)", ""],
    [{ do: "take-number", units: "cm, m" }, "Hose 15m or 40 cm", "15 m"],
    [{ do: "take-number", units: "m" }, "Mix 15 ml, 2,5 m long", "2,5 m"],
    [{ do: "take-number", units: "" }, "Set of 3 pots", "3"],
    [{ do: "take-listed", words: "green, dark green, red" }, "A dark green and red hose", "dark green"],
    [{ do: "take-listed", words: "rose" }, "Primrose", ""],
    [{ do: "take-pattern", pattern: "model (\\w+)" }, "Lamp model X9 new", "X9"],
    [{ do: "take-level", level: 2 }, "Garden > Hoses > Long", "Hoses"],
    [{ do: "replace", find: "rose", with: "tulip", whole: true }, "Rose and primrose", "tulip and primrose"],
    [{ do: "replace", find: "rose", with: "", whole: false }, "Rose and primrose", " and prim"],
    [{ do: "remove-words", words: "new, sale" }, "New hose sale, now", "hose, now"],
    [{ do: "case", to: "title" }, "RED ROSE don't 5M", "Red Rose Don't 5m"],
    [{ do: "case", to: "sentence" }, "RED ROSE", "Red rose"],
    [{ do: "arithmetic", op: "multiply", by: 1.19, field: "" }, "10", "11.9"],
    [{ do: "arithmetic", op: "divide", by: 0, field: "" }, "10", ""],
    [{ do: "arithmetic", op: "subtract", by: 0, field: "cost" }, "10", "6"],
    [{ do: "arithmetic", op: "add", by: 1, field: "" }, "ten", ""],
    [{ do: "round", to: 0.5 }, "10.3", "10.5"],
    [{ do: "price", digits: 2, currency: "EUR" }, "9.5", "9.50 EUR"],
    [{ do: "plain-text" }, "<b>Hose</b>&nbsp;&amp; reel&#33;", " Hose  & reel!"],
    [{ do: "shorten", most: 12 }, "Long garden hose", "Long garden"],
    [{ do: "shorten", most: 3 }, "Gardenhose", "Gar"],
    [{ do: "default", text: "none" }, "", "none"],
  ])("%j", (step, text, expected) => {
    expect(run(step, text)).toBe(expected);
  });

  it("refuse patterns that can't be read, and say what they can't do", () => {
    expect(patternFault("(a")).toMatch(/can't be read/);
    expect(patternFault("(?<=EUR )[0-9]+")).toMatch(/looks around/);
    expect(patternFault("(a)\\1")).toMatch(/looks around/);
    expect(patternFault("[a-z]+ \\d{2}")).toBeNull();
  });

  it("match patterns that would keep another engine busy for ever", () => {
    const long = "a".repeat(1500);
    for (const pattern of ["(a+)+b", "(a|aa)+$", "(\\w|\\d)+!", "(.*)(.*)(.*)(.*)x"]) {
      expect(run({ do: "take-pattern", pattern }, `${long}?`)).toBe("");
    }
    expect(run({ do: "take-pattern", pattern: "(a+)+b" }, `${long}b`)).toBe(long);
  });

  it("find what the language's own expressions find, in patterns both can do", () => {
    const part = fc.constantFrom("a", "b", "\\d", "[ab]+", ".", "(a|b)", "b?", "\\s", "x{1,2}", "(\\d+)");
    const letters = fc.array(fc.constantFrom(..."abBx 12é"), { maxLength: 14 });
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 4 }), letters, (parts, list) => {
        const text = list.join("");
        const found = new RegExp(parts.join(""), "iu").exec(text);
        const expected = found ? (found[1] ?? found[0]) : "";
        expect(run({ do: "take-pattern", pattern: parts.join("") }, text)).toBe(expected);
      }),
    );
  });
});

describe("a derived field", () => {
  it("takes the first rule that holds and gives a value", () => {
    const made = field([
      { when: has("rose"), then: [out([{ kind: "text", text: "flower" }])] },
      { when: ALL, then: [out([{ kind: "field", field: "title" }], [{ do: "take-number", units: "m, g" }])] },
      { when: has("card"), then: [out([])] },
      { when: ALL, then: [out([{ kind: "text", text: "rest" }])] },
    ]);
    // The second rule gives the gift card nothing, so the third has it: empty on purpose.
    expect(values(made)).toEqual(["flower", "0.5 g", "flower", "2,5 m", ""]);
    expect([...evaluateField(TABLE, made, SETTINGS).ruleOf]).toEqual([0, 1, 0, 1, 2]);
  });

  it("joins fields without gaps, reads money in units, and calculates", () => {
    expect(
      values(
        field([
          {
            when: ALL,
            then: [
              out([
                { kind: "field", field: "brand" },
                { kind: "text", text: "·" },
                { kind: "field", field: "price" },
              ]),
            ],
          },
        ]),
      ),
    ).toEqual(["Thornlea · 12.9", "· 1.9", "Ottersby ·", "thornlea · 40", "· 10"]);
    const net = field(
      [
        {
          when: ALL,
          then: [out([{ kind: "field", field: "price" }], [{ do: "arithmetic", op: "divide", by: 1.25, field: "" }])],
        },
      ],
      { kind: "money" },
    );
    expect(values(net)).toEqual(["10320", "1520", "", "32000", "8000"]);
  });

  it("has two forms of one attribute from one list, the first of repeated entries counting", () => {
    const look = (column: 1 | 2): Output =>
      out([{ kind: "field", field: "code" }], [{ do: "look-up", list: "colors", column, missing: "empty" }]);
    const made = field([{ when: ALL, then: [look(1), look(2)] }], { secondName: "Word" });
    const { columns, ruleOf } = evaluateField(TABLE, made, SETTINGS);
    const form = (no: number) => Array.from({ length: 5 }, (_, row) => cellText(columns[no]!, row));
    expect(form(0)).toEqual(["red", "green", "red", "", ""]);
    expect(form(1)).toEqual(["Signal red", "Moss green", "Signal red", "", ""]);
    expect([...ruleOf]).toEqual([0, 0, 0, NO_RULE, NO_RULE]);
  });

  it("is worked out alike with and without the shortcut for one column", () => {
    // Two columns in the parts switch the shortcut off; the second is empty everywhere.
    const table = { ...TABLE, columns: { ...TABLE.columns, none: textColumn(["", "", "", "", ""]) } };
    const step: Step = { do: "case", to: "upper" };
    const one = field([{ when: ALL, then: [out([{ kind: "field", field: "title" }], [step])] }]);
    const two = field([
      {
        when: ALL,
        then: [
          out(
            [
              { kind: "field", field: "title" },
              { kind: "field", field: "none" },
            ],
            [step],
          ),
        ],
      },
    ]);
    const [a, b] = [one, two].map((made) => evaluateField(table, made, SETTINGS).columns[0]!);
    for (let row = 0; row < 5; row++) expect(cellText(a!, row)).toBe(cellText(b!, row));
  });
});

describe("fields that build on each other", () => {
  const reads = (key: string, name: string, more: Partial<DerivedField> = {}) =>
    field([{ when: ALL, then: [out([{ kind: "field", field: name }])] }], { key, name: key.toUpperCase(), ...more });

  it("come in order, also through a stand-in", () => {
    const fields = [reads("c", derivedColumn("b")), reads("b", "brand"), reads("a", "brand", { replaces: "brand" })];
    const ordered = orderFields(fields);
    expect(ordered.ok && ordered.value.map(({ key }) => key)).toEqual(["a", "b", "c"]);
  });

  it("in a circle are refused with the path", () => {
    const circle = orderFields([
      reads("a", derivedColumn("c")),
      reads("b", derivedColumn("a")),
      reads("c", derivedColumn("b")),
    ]);
    expect(circle).toMatchObject({ ok: false, error: { code: "derived-cycle" } });
    expect(circle.ok ? "" : circle.error.message).toContain("A → C → B → A");
    expect(orderFields([reads("a", derivedColumn("a"))]).ok).toBe(false);
  });
});

describe("the preview", () => {
  const made = field([
    { when: has("rose"), then: [out([{ kind: "text", text: "flower" }])] },
    {
      when: { match: "any", of: [...has("hose").of, ...has("bush").of] },
      then: [out([{ kind: "text", text: "thing" }])],
    },
  ]);
  const preview = previewField(TABLE, made, ["title"], SETTINGS, [4]);

  it("counts what each rule holds for and gives, what none catches, and what several hold for", () => {
    expect(preview).toMatchObject({ rows: 5, caught: 2, caughtByNone: 3, caughtTwice: 2 });
    expect(preview.rules.map(({ holds, gives }) => [holds, gives])).toEqual([
      [2, 2],
      [2, 0],
    ]);
    expect(preview.twiceExamples.map(({ row, rules, rule }) => [row, rules, rule])).toEqual([
      [0, [0, 1], 0],
      [2, [0, 1], 0],
    ]);
    expect(preview.lookedUp).toEqual([
      { row: 4, before: [{ field: "title", value: "Gift card" }], after: [""], rule: null },
    ]);
  });

  it("warns of words inside others, and shows near misses", () => {
    expect(preview.rules[0]!.insideOthers).toEqual([
      { word: "rose", count: 1, others: [{ word: "primrose", count: 1 }] },
    ]);
    expect(preview.rules[0]!.nearMisses).toEqual([{ row: 1, why: '"rose" stands inside "primrose"' }]);
    const slip = previewField(
      TABLE,
      field([{ when: has("copper\ncoper"), then: [out([{ kind: "text", text: "x" }])] }]),
      [],
      SETTINGS,
    );
    expect(slip.rules[0]!.nearMisses).toEqual([]);
    const misspelt = previewField(
      TABLE,
      field([{ when: has("packets"), then: [out([{ kind: "text", text: "x" }])] }]),
      [],
      SETTINGS,
    );
    expect(misspelt.rules[0]!.nearMisses).toEqual([{ row: 1, why: '"packet" is one letter from "packets"' }]);
  });
});

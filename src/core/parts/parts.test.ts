import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { partsAsText, partsFromText } from "./cell";
import { fillParts } from "./fill";
import { field, lineSchema, LINE_STEPS, text, type Part } from "./part";
import { FRESH_STEP, STEP_LABEL, stepSchema, type Step } from "./steps";

const VALUES: Record<string, string> = { title: "Oak rake", brand: "Thornlea", price: "12.9", none: "" };
const fill = (...parts: Part[]) => fillParts(parts, (name) => VALUES[name] ?? "");

describe("parts put together", () => {
  it("leave nothing that leads nowhere where a field is empty", () => {
    expect(fill(field("brand"), text(" · "), field("title"))).toEqual({ text: "Thornlea · Oak rake", empty: [] });
    expect(fill(field("none"), text(" · "), field("title")).text).toBe("Oak rake");
    expect(fill(field("title"), text(" · "), field("none"), text(" · "), field("brand")).text).toBe(
      "Oak rake · Thornlea",
    );
    expect(fill(field("title"), text(" for "), field("none"))).toEqual({ text: "Oak rake", empty: ["none"] });
    expect(fill(field("title"), text(" ("), field("none"), text(") by "), field("brand")).text).toBe(
      "Oak rake by Thornlea",
    );
    expect(fill(field("title"), text(" ("), field("none"), text(")")).text).toBe("Oak rake");
    expect(fill(field("none"), text(" garden")).text).toBe("garden");
    expect(fill(field("none"), field("none")).text).toBe("");
  });

  it("keep what closes a sentence, and not what would part it from more", () => {
    expect(fill(text("Only "), field("title"), text("!")).text).toBe("Only Oak rake!");
    expect(fill(field("title"), text(" ("), field("brand"), text(")")).text).toBe("Oak rake (Thornlea)");
    expect(fill(field("title"), text(" · ")).text).toBe("Oak rake");
    expect(fill(text("Sale!")).text).toBe("Sale!");
  });

  it("change each value by its own steps before they meet", () => {
    const upper = field("brand", { do: "case", to: "upper" });
    const price = field(
      "price",
      { do: "price", digits: 2, currency: "EUR" },
      { do: "around", before: "now ", behind: "!" },
    );
    expect(fill(upper, text(": "), price).text).toBe("THORNLEA: now 12.90 EUR!");
    const around: Step = { do: "around", before: "by ", behind: "" };
    expect(fill(field("title"), text(" "), field("none", around)).text).toBe("Oak rake");
    expect(fill(field("title"), text(" "), field("none", { do: "default", text: "any" }, around))).toEqual({
      ...{ text: "Oak rake by any", empty: [] },
    });
  });

  it("never hold a doubled separator, begin or end with one, whichever of the fields are empty (property)", () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 1, maxLength: 6 }), (given) => {
        const parts = given.flatMap((has, i) => [...(i > 0 ? [text(" · ")] : []), field(has ? `f${i}` : "none")]);
        const wanted = given.flatMap((has, i) => (has ? [`f${i}`] : []));
        expect(fillParts(parts, (name) => (name === "none" ? "" : name)).text).toBe(wanted.join(" · "));
      }),
    );
  });
});

describe("a line", () => {
  it("looks at nothing but the values of its fields", () => {
    const schema = lineSchema(2);
    for (const name of LINE_STEPS) expect(schema.safeParse([field("title", FRESH_STEP[name])]).success).toBe(true);
    expect(schema.safeParse([field("title", FRESH_STEP["look-up"])]).success).toBe(false);
    expect(schema.safeParse([field("price", { ...FRESH_STEP.arithmetic, field: "cost" })]).success).toBe(false);
    expect(schema.safeParse([]).success).toBe(false);
    expect(schema.safeParse([text("a"), text("b"), text("c")]).success).toBe(false);
  });

  it("can do to a value all but look it up", () => {
    expect([...LINE_STEPS, "look-up"].sort()).toEqual(Object.keys(STEP_LABEL).sort());
  });
});

describe("parts in a cell", () => {
  it("read as people would write them", () => {
    expect(partsFromText('[title; shorten 30; case "upper"] now [ price ]')).toEqual([
      [field("title", { do: "shorten", most: 30 }, { do: "case", to: "upper" }), text(" now "), field("price")],
    ]);
    // What is left out is as it usually is.
    expect(partsFromText("[title; take-words 2]")).toEqual([[field("title", { do: "take-words", from: 2, count: 0 })]]);
  });

  it.each([
    ["[title; shout]", "“shout” is not something that can be done to the field “title”."],
    ["[title; shorten]", "“shorten” is not something that can be done"],
    ['[title; shorten "many"]', "can be done"],
    ["[title; shorten 30 40]", "can be done"],
    ["[title; shorten 30", "never closes"],
    ["[; shorten 30]", "without a name"],
    ["[ ]", "without a name"],
  ])("say what is wrong with %s", (cell, fault) => {
    expect(partsFromText(cell)).toContain(fault);
  });

  it("come back as they went out, whatever signs are in them (property)", () => {
    const words = fc.string({ minLength: 1, maxLength: 10, unit: fc.constantFrom(...`ab [\\];|"\n é`) });
    const steps: fc.Arbitrary<Step> = fc.oneof(
      fc.constantFrom(...Object.values(FRESH_STEP)),
      fc.record({ do: fc.constant("around" as const), before: words, behind: words }),
      fc.record({ do: fc.constant("replace" as const), find: words, with: words, whole: fc.boolean() }),
      fc.record({ do: fc.constant("round" as const), to: fc.constantFrom(0.05, 1e-7, 250) }),
    );
    const name = words.map((made) => made.trim()).filter((made) => made !== "");
    const fields = fc.tuple(name, fc.array(steps, { maxLength: 3 })).map(([of, done]) => field(of, ...done));
    // Two texts in a row are one.
    const line = fc
      .array(fc.tuple(fields, words.map(text)), { minLength: 1, maxLength: 3 })
      .map((pairs) => pairs.flat());
    fc.assert(
      fc.property(line, fc.constantFrom("", "|"), (parts, between) => {
        expect(partsFromText(partsAsText(parts, between), between)).toEqual([parts]);
      }),
    );
  });

  it("know every step's settings", () => {
    for (const step of Object.values(FRESH_STEP)) expect(stepSchema.parse(step)).toEqual(step);
  });
});

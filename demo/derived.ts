import type { DerivedField } from "@/core/catalogue/derive/derived-field";

/** Derived fields that Quillmoor starts with: a season out of the category, a measure out of the title. */
const FIELDS: DerivedField[] = [
  {
    key: "season",
    name: "Season",
    kind: "text",
    secondName: "",
    replaces: null,
    rules: [
      {
        when: {
          match: "any",
          of: [
            { field: "category1", op: "one-of", value: "Seeds\nWatering\nRaised beds" },
            { field: "title", op: "has-word", value: "propagator, cloche, cold frame" },
          ],
        },
        then: [{ parts: [{ kind: "text", text: "spring" }], by: " ", steps: [] }],
      },
      {
        when: {
          match: "any",
          of: [
            { field: "title", op: "has-word", value: "heater, winter, fleece" },
            { field: "category1", op: "is", value: "Grow lights" },
            { field: "category2", op: "is", value: "Bird feeders" },
          ],
        },
        then: [{ parts: [{ kind: "text", text: "winter" }], by: " ", steps: [] }],
      },
      {
        when: { match: "all", of: [] },
        then: [{ parts: [{ kind: "text", text: "all year" }], by: " ", steps: [] }],
      },
    ],
  },
  {
    key: "measure",
    name: "Measure",
    kind: "text",
    secondName: "",
    replaces: null,
    rules: [
      {
        when: { match: "all", of: [] },
        then: [
          {
            parts: [{ kind: "field", field: "title" }],
            by: " ",
            steps: [{ do: "take-number", units: "cm, m, l, ml, g, kg, W, plants, trays" }],
          },
        ],
      },
    ],
  },
];

export const QUILLMOOR_DERIVED = FIELDS.map((definition, position) => ({
  key: definition.key,
  position,
  definition,
}));

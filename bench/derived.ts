import type { DerivedField } from "@/core/catalogue/derive/derived-field";
import { evaluateField } from "@/core/catalogue/derive/evaluate";
import { findFindings } from "@/core/catalogue/findings/find";
import { proposeFamilies } from "@/core/catalogue/families";
import type { Columns } from "@/core/kit/columns";
import { figure, timed, type Figure } from "./measure";

const SETTINGS = { lists: new Map(), isMoney: (name: string) => name === "price" || name === "cost" };

/** Ten fields of three rules each: words in titles, categories, numbers with units, arithmetic, joins. */
function tenFields(): DerivedField[] {
  const words = ["kitchen", "bath", "hall", "office", "garden", "attic", "stair", "shop", "lamp", "panel"];
  return words.map((word, i) => ({
    ...{ key: `f${i}`, name: `Field ${i}`, kind: i === 9 ? ("money" as const) : ("text" as const) },
    ...{ secondName: "", replaces: null },
    rules: [
      {
        when: { match: "all" as const, of: [{ field: "title", op: "has-word" as const, value: word }] },
        then: [
          i === 9
            ? {
                parts: [{ kind: "field", field: "price" }],
                by: " ",
                steps: [{ do: "arithmetic" as const, op: "multiply" as const, by: 0.8, field: "" }],
              }
            : {
                parts: [{ kind: "field", field: "title" }],
                by: " ",
                steps: [{ do: "take-number" as const, units: "watts" }],
              },
        ],
      },
      {
        when: {
          match: "any" as const,
          of: [
            { field: "category2", op: "is" as const, value: words[(i + 1) % 8]! },
            { field: "price", op: "at-least" as const, value: "200000" },
          ],
        },
        then: [
          {
            parts: [
              { kind: "field", field: "brand" },
              { kind: "text", text: "·" },
              { kind: "field", field: "category3" },
            ],
            by: " ",
            steps: [],
          },
        ],
      },
      {
        when: { match: "all" as const, of: [] },
        then: [
          {
            parts: [{ kind: "field", field: "brand" }],
            by: " ",
            steps: [{ do: "case" as const, to: "upper" as const }],
          },
        ],
      },
    ],
  }));
}

/** Derived fields, proposed families and findings over a whole catalogue. */
export async function benchDerived(table: Columns, label: string): Promise<Figure[]> {
  const fields = tenFields();
  const derive = await timed(3, () => {
    const columns = fresh(table);
    fields.forEach((field) => evaluateField(columns, field, SETTINGS));
  });
  const families = await timed(3, () => proposeFamilies(table));
  const findings = await timed(3, () => findFindings(table, new Uint8Array(0)));
  return [
    figure("ten derived fields, three rules each", label, derive, "", null, "within 1000 ms at 100k"),
    figure("propose families", label, families, "", null, ""),
    figure("look for findings", label, findings, "", null, ""),
  ];
}

/** The same columns as other objects, so that nothing kept from an earlier round helps. */
function fresh(table: Columns): Columns {
  const columns = Object.fromEntries(Object.entries(table.columns).map(([name, column]) => [name, { ...column }]));
  return { length: table.length, columns };
}

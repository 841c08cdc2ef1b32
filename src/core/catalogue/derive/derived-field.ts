import { z } from "zod";
import { fieldsIn, whereSchema } from "../where";
import { fieldsOfParts, isField, partSchema } from "../../parts/part";
import { stepSchema, type Step } from "../../parts/steps";

/** Outputs kept before parts named their kind read as they did. */
const keptPartSchema = z.preprocess((kept) => {
  if (typeof kept !== "object" || kept === null || "kind" in kept) return kept;
  return { kind: "text" in kept ? "text" : "field", ...kept };
}, partSchema);

/** What a rule gives: its parts put together, then changed step by step. No parts leave the field empty on purpose. */
export const outputSchema = z.object({
  parts: z.array(keptPartSchema).max(20),
  /** What stands between parts that have a value. */
  by: z.string().max(20).default(" "),
  steps: z.array(stepSchema).max(12).default([]),
});

export type Output = z.infer<typeof outputSchema>;

export const derivedRuleSchema = z.object({
  when: whereSchema,
  /** One output for each form of the field. */
  then: z.array(outputSchema).min(1).max(2),
});

export type DerivedRule = z.infer<typeof derivedRuleSchema>;

/** Fields of the feed that a derived field can stand in for everywhere. */
export const REPLACEABLE = ["title", "brand", "category", "availability", "family", "color", "size", "gtin"] as const;

export const derivedFieldSchema = z.object({
  key: z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/, "lower-case letters, digits and hyphens, at most 40"),
  name: z.string().trim().min(1, "Give the field a name.").max(60),
  /** What the values are: text, a plain number, or money in currency units. */
  kind: z.enum(["text", "number", "money"]).default("text"),
  /** A second form of the same attribute, such as the word a shopper reads beside the code a channel wants. */
  secondName: z.string().trim().max(60).default(""),
  /** The field of the feed that it stands in for everywhere, or null. */
  replaces: z.enum(REPLACEABLE).nullable().default(null),
  /** Tried in order; the first that holds and gives a value wins. */
  rules: z.array(derivedRuleSchema).max(100),
});

export type DerivedField = z.infer<typeof derivedFieldSchema>;

/** A look-up list: what is looked up, and one or two values it stands for. */
export const lookupListSchema = z.object({
  key: z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/),
  name: z.string().trim().min(1, "Give the list a name.").max(60),
  rows: z.array(z.tuple([z.string(), z.string(), z.string()])).max(200_000),
});

export type LookupList = z.infer<typeof lookupListSchema>;

const DERIVED_PREFIX = "derived:";

/** The column that a derived field's form is kept in; `form` is 0 or 1. */
export function derivedColumn(key: string, form = 0): string {
  return `${DERIVED_PREFIX}${key}${form === 0 ? "" : "/2"}`;
}

export function isDerivedColumn(name: string): boolean {
  return name.startsWith(DERIVED_PREFIX);
}

/** The columns that a field reads: in conditions, in parts, and in arithmetic. */
export function columnsReadBy(field: DerivedField): string[] {
  const names = new Set<string>();
  for (const { when, then } of field.rules) {
    fieldsIn(when).forEach((name) => names.add(name));
    for (const { parts, steps } of then) {
      fieldsOfParts(parts).forEach((name) => names.add(name));
      for (const step of allSteps({ parts, steps })) if (step.do === "arithmetic" && step.field) names.add(step.field);
    }
  }
  return [...names];
}

/** The steps of an output: those of its parts, then its own. */
export function allSteps({ parts, steps }: Pick<Output, "parts" | "steps">): Step[] {
  return [...parts.filter(isField).flatMap((part) => part.steps ?? []), ...steps];
}

/** The number of forms a field has. */
export function formsOf(field: DerivedField): number {
  return field.secondName === "" ? 1 : 2;
}

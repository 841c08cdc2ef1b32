import { z } from "zod";
import { readsRow, stepSchema, type Step } from "./steps";

const textPartSchema = z.object({ kind: z.literal("text"), text: z.string().max(500) });

const fieldPartSchema = z.object({
  kind: z.literal("field"),
  field: z.string().min(1).max(200),
  /** What is done to the value, in order; left out: nothing. */
  steps: z.array(stepSchema).min(1).max(12).optional(),
});

/**
 * A part of what is put together from a catalogue: a text, or the value of a field, changed step by step. Names, ad lines
 * and derived fields are all made of these; which fields there are is theirs to say.
 */
export const partSchema = z.discriminatedUnion("kind", [textPartSchema, fieldPartSchema]);
export type Part = z.infer<typeof partSchema>;
export type FieldPart = z.infer<typeof fieldPartSchema>;

export function text(words: string): Part {
  return { kind: "text", text: words };
}

export function field(name: string, ...steps: Step[]): Part {
  return { kind: "field", field: name, ...(steps.length > 0 && { steps }) };
}

export function isField(part: Part): part is FieldPart {
  return part.kind === "field";
}

/** The fields that parts take values from, each once. */
export function fieldsOfParts(parts: readonly Part[]): string[] {
  return [...new Set(parts.filter(isField).map((part) => part.field))];
}

/** What a line can't do to a value, since it knows no more than that: lists to look up in are a derived field's. */
function needsMore(step: Step): boolean {
  return step.do === "look-up" || readsRow(step);
}

/** The things to do to a field in a line: all that need nothing but its value. */
export const LINE_STEPS = stepSchema.options
  .map((option) => option.shape.do.value)
  .filter((name): name is Exclude<Step["do"], "look-up"> => name !== "look-up");

/**
 * A line of parts: a name, a headline. Its steps look at nothing but the value.
 * @param most parts
 */
export function lineSchema(most: number) {
  return z
    .array(partSchema)
    .min(1)
    .max(most)
    .refine((parts) => !parts.some((part) => isField(part) && part.steps?.some(needsMore)), {
      message: "Lists and other fields are looked at by a derived field; take that one here.",
    });
}

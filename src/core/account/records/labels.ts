import { z } from "zod";
import { plural } from "../../kit/format";
import { defineKind } from "../record-kind";
import { keySchema } from "./basics";

/** The items on one shelf as the channel knows them: sent as a label, so a split by a shelf set means the same there. */
export const labelsSchema = z.object({
  type: z.literal("labels"),
  key: keySchema,
  shelfSet: z.string(),
  /** The shelf's key, which stays when it is given another name. */
  shelf: z.string(),
  /** What the shelf is called; left out where its key says it. */
  name: z.string().optional(),
  items: z.array(z.int()),
});

export type Labels = z.infer<typeof labelsSchema>;

/** The column a shelf set's labels are found under in the catalogue's columns. */
export function shelfColumn(shelfSet: string): string {
  return `shelf:${shelfSet}`;
}

/** The shelf set that a column holds the labels of, or null. */
export function shelfSetOf(column: string): string | null {
  const before = shelfColumn("");
  return column.startsWith(before) ? column.slice(before.length) : null;
}

const PLAN_PREFIX = "plan.";

/** The name under which the items of a planogram's filter are labelled, in place of a shelf set's key: no such key has a point. */
export function planLabels(planogram: string): string {
  return PLAN_PREFIX + planogram;
}

/** The planogram whose items a set of labels names, or null where they name shelves. */
export function planogramOfLabels(shelfSet: string): string | null {
  return shelfSet.startsWith(PLAN_PREFIX) ? shelfSet.slice(PLAN_PREFIX.length) : null;
}

/** The label of the items that a planogram's filter lets through. */
export const TAKEN = "taken";

export function labelsKey(shelfSet: string, shelf: string): string {
  return `l:${shelfSet}/${shelf}`;
}

export const labelsKind = defineKind<Labels>({
  schema: labelsSchema,
  label: ["shelf label", "shelf labels"],
  place: 80,
  parents: () => [],
  fields: {
    shelfSet: { label: "shelf set", decides: "serving" },
    shelf: { label: "shelf", decides: "serving" },
    name: { label: "name" },
    items: { label: "items", decides: "serving" },
  },
  name: ({ shelf, name, shelfSet }) =>
    planogramOfLabels(shelfSet) === null ? `${name ?? shelf} of ${shelfSet.replaceAll("-", " ")}` : (name ?? shelf),
  added: ({ items }, { name }) => `Label sent: ${plural(items.length, "item")} on ${name}`,
  changed: {
    items: (before, after) => {
      const had = new Set(before);
      const has = new Set(after);
      const came = after.filter((item) => !had.has(item)).length;
      return `${plural(came, "item")} came, ${before.filter((item) => !has.has(item)).length} left`;
    },
  },
  cells: ({ shelf, name, shelfSet, items }) => ({
    product_group: `${shelfColumn(shelfSet)} = ${name ?? shelf}`,
    role: plural(items.length, "item"),
  }),
});

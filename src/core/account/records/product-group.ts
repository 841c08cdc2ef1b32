import { z } from "zod";
import { splitName } from "../split-name";
import { millsToDecimal } from "../../kit/money";
import { defineKind, type Known } from "../record-kind";
import { readAmount, readChoice } from "./read-cells";
import { amountSchema, keySchema } from "./basics";

/**
 * A node of an ad group's product-group tree.
 * - `split` divides by a field; its children are units, splits and one remainder.
 * - `unit` bids on what it holds.
 * - `remainder` is what a split does not name: `closed` gets no ads; `on` is a leak.
 * - `rest` keeps serving what a unit held before single items were lifted out of it; it reaches no further than that
 *   unit did, so it is no leak.
 */
export const productGroupSchema = z.object({
  type: z.literal("productGroup"),
  key: keySchema,
  adGroup: keySchema,
  parent: keySchema.nullable(),
  role: z.enum(["split", "unit", "remainder", "rest"]),
  /** The value of the parent's split that this node holds; null for the root, a remainder or a rest. */
  value: z.string().nullable(),
  /** For a split: the column its children are told apart by. */
  by: z.string().nullable(),
  status: z.enum(["on", "closed"]),
  /** Mills a click, or null for the ad group's bid. */
  bid: amountSchema.nullable(),
});

export type ProductGroup = z.infer<typeof productGroupSchema>;

/** Whether a node bids on what nobody named: an open remainder, or an ad group that is not divided at all. */
export function isOpen({ status, role, parent }: ProductGroup): boolean {
  return status === "on" && (role === "remainder" || (role === "unit" && parent === null));
}

/** What nobody named, or what stayed behind when items were lifted out, in one word. */
export const REMAINDER = "remainder";

function above(known: Known, { parent }: ProductGroup): ProductGroup | undefined {
  const record = parent === null ? undefined : known.get(parent);
  return record?.type === "productGroup" ? (record as ProductGroup) : undefined;
}

/** The path of a product group in words, for example `brand = Thornlea / shelf = Hot / remainder`. */
export function groupPath(group: ProductGroup, known: Known): string {
  const steps: string[] = [];
  for (let at: ProductGroup | undefined = group; at; at = above(known, at)) {
    const split = above(known, at);
    if (!split) continue;
    const by = split.by ?? "";
    steps.unshift(at.value === null ? REMAINDER : `${splitName(by)} = ${known.valueName(by, at.value)}`);
  }
  return steps.length === 0 ? "all items" : steps.join(" / ");
}

/** The node's own value in words. */
function ownName(group: ProductGroup, known: Known): string {
  if (group.parent === null) return "all items";
  return group.value === null ? REMAINDER : known.valueName(above(known, group)?.by ?? "", group.value);
}

export const productGroupKind = defineKind<ProductGroup>({
  schema: productGroupSchema,
  label: ["product group", "product groups"],
  place: 90,
  parents: ({ adGroup, parent }) => [
    { key: adGroup, types: ["adGroup"], bond: "hangs below" },
    ...(parent === null ? [] : [{ key: parent, types: ["productGroup"], bond: "hangs below" as const }]),
  ],
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    parent: { label: "group above", decides: "serving" },
    role: { label: "items lifted out", decides: "serving" },
    value: { label: "value", decides: "serving" },
    by: { label: "items lifted out", decides: "serving" },
    status: { label: "status", byHand: true, decides: "serving" },
    bid: { label: "bid", money: true, byHand: true, decides: "spending" },
  },
  name: (group, known) => {
    const [outer, own] = [known.nameOf(group.adGroup) ?? "", ownName(group, known)];
    // A group that is all of its ad group is often called like it.
    return outer === own || outer.endsWith(` · ${own}`) ? outer : `${outer} · ${own}`;
  },
  isScaffold: ({ role, status }) =>
    role === "split" || (role === "rest" && status === "on") || (role === "remainder" && status === "closed"),
  added: ({ bid, role, status }, { name, money }) => {
    // What stays behind of a divided group held items; closed, it gives them up.
    if (role === "rest" && status === "closed") return `All that is not named in "${name}" is closed`;
    return bid === null ? `New product group "${name}"` : `New product group "${name}" at ${money(bid)} a click`;
  },
  changed: {
    role: (_, after) => (after === "split" ? "divided, so that single items can bid on their own" : null),
    by: () => null,
    status: (_, after) => (after === "on" ? "switched on" : "closed"),
  },
  reads: {
    product_group_status: readChoice("status", { on: "on", closed: "closed" }),
    bid: readAmount("bid", true),
  },
  cells: (group, known) => ({
    product_group: groupPath(group, known),
    role: group.role,
    product_group_status: group.status,
    bid: group.bid === null ? null : millsToDecimal(group.bid),
  }),
  bid: ({ bid }) => bid,
  // A split bids nothing; what it divides does.
  bidsNothing: ({ by }) => by !== null,
  switched: (group, { status }) => ({ ...group, status: status === "on" ? "on" : "closed" }),
});

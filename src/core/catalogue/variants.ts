import { FIELD, foldHeading } from "./fields";

type Node = Record<string, unknown>;

/** Names, folded, of the list that holds a product's variants. */
const LISTS = new Set([
  ...["variants", "variant", "variations", "variation", "skus", "children", "articles", "models", "versions", "offers"],
  ...["varianten", "variantes", "varianti", "warianty", "varianty", "childproducts", "productvariants", "combinations"],
]);
/** What names the product that variants share. */
const GROUP = "item_group_id";

const isNode = (value: unknown): value is Node => value !== null && typeof value === "object" && !Array.isArray(value);
const isIdName = (name: string) => FIELD.id.headings.includes(foldHeading(name));
const isPriceName = (name: string) => FIELD.price.headings.includes(foldHeading(name));

/**
 * The items of a record that holds its variants in a list (`variants[].sku`): each variant with what its product says of all
 * of them, by its own ID, and with the product's as the family. A record without such a list is one item.
 */
export function variantsOf(record: unknown): unknown[] {
  if (!isNode(record)) return [record];
  const found = Object.entries(record).find(([name, value]) => LISTS.has(foldHeading(name)) && isVariants(value));
  if (!found) return [record];
  const [list, variants] = found as [string, Node[]];
  const shared = Object.fromEntries(Object.entries(record).filter(([name]) => name !== list));
  const idName = Object.keys(shared).find(isIdName) ?? "id";
  const family = shared[idName];
  return variants.map((variant) => {
    const own = Object.entries(variant).find(([name]) => isIdName(name));
    const inherited = { ...shared, ...(family === undefined || GROUP in shared ? {} : { [GROUP]: family }) };
    // By the name that the product's ID has, so that all rows of the feed have theirs in one column.
    return { ...inherited, ...variant, ...(own ? { [idName]: own[1] } : {}) };
  });
}

/** Whether a list holds things that are sold: objects of which each has an ID, and some a price. */
function isVariants(value: unknown): value is Node[] {
  if (!Array.isArray(value) || value.length === 0 || !value.every(isNode)) return false;
  const nodes = value as Node[];
  return (
    nodes.every((node) => Object.keys(node).some(isIdName)) &&
    (nodes.length > 1 || nodes.some((node) => Object.keys(node).some(isPriceName)))
  );
}

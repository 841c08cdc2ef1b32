import { HEADINGS } from "./field-headings";
import { foldHeading } from "./fields";
import { REPEAT_MARK, type GrowingColumns } from "./growing-columns";

type Node = Record<string, unknown>;

/** Names, folded, of the list that holds a product's variants. */
const LISTS = new Set([
  ...["variants", "variant", "variations", "variation", "skus", "children", "articles", "models", "versions", "offers"],
  ...["varianten", "variantes", "varianti", "warianty", "varianty", "childproducts", "productvariants", "combinations"],
]);
/** What names the product that variants share. */
const GROUP = "item_group_id";

const isNode = (value: unknown): value is Node => value !== null && typeof value === "object" && !Array.isArray(value);
const isIdName = (name: string) => HEADINGS.id.includes(foldHeading(name));
const isPriceName = (name: string) => HEADINGS.price.includes(foldHeading(name));

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

/**
 * The same for a row of XML, whose nested elements are columns by then (`variants.variant.sku`) and whose repeated ones are
 * joined: a row for each variant, with what it says under the names that products have. Of what some variants say and others
 * don't it can't be told whose it is: no variant gets it, and it stays in its own column as it came.
 */
export function variantRows(columns: GrowingColumns, row: string[]): string[][] {
  const at = columns.names.findIndex((name, i) => name.includes(".") && (row[i] ?? "") !== "" && isVariantId(name));
  if (at < 0) return [row];
  const above = columns.names[at]!.slice(0, columns.names[at]!.lastIndexOf(".") + 1);
  const ids = row[at]!.split(REPEAT_MARK);
  const told = row.flatMap((cell, i) => {
    const name = columns.names[i]!;
    if (cell === "" || !name.startsWith(above)) return [];
    const values = cell.split(REPEAT_MARK);
    const isEach = values.length === ids.length;
    // What the product says is not said of variants of which some say otherwise.
    return [{ at: i, name: name.slice(above.length), isEach, values: isEach ? values : ids.map(() => "") }];
  });
  const moved = new Set(told.filter(({ isEach }) => isEach).map((one) => one.at));
  const shared = row.map((cell, i) => (moved.has(i) ? "" : cell));
  const ownId = columns.names.find((name) => !name.includes(".") && isIdName(name)) ?? "id";
  const family = shared[columns.names.indexOf(ownId)] ?? "";
  return ids.map((id, variant) => {
    const one = [...shared];
    const set = (name: string, value: string) => {
      const known = columns.names.indexOf(name);
      if (known >= 0 && known < one.length) one[known] = "";
      columns.put(one, name, value);
    };
    for (const { name, values } of told) set(name, values[variant]!);
    set(ownId, id);
    if (family !== "") set(GROUP, family);
    return one;
  });
}

/** Whether a column is the ID of what stands in a list of variants. */
function isVariantId(name: string): boolean {
  const parts = name.split(".");
  return parts.length > 1 && isIdName(parts.at(-1)!) && parts.slice(0, -1).some((part) => LISTS.has(foldHeading(part)));
}

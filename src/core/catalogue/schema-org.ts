/**
 * Products as schema.org describes them in JSON-LD (open standard, https://schema.org/Product): brings the ways in which
 * shops write them into one flat form whose names a mapping is proposed from.
 */

type Node = Record<string, unknown>;

function isNode(value: unknown): value is Node {
  return value !== null && typeof value === "object" && !Array.isArray(value);
}

function list(value: unknown): unknown[] {
  return value === undefined || value === null ? [] : Array.isArray(value) ? value : [value];
}

/** Whether a node is of a type, by the last part of the type's name. */
function isA(node: Node, ...types: string[]): boolean {
  return list(node["@type"]).some((type) => types.includes(String(type).replace(/^.*[/:#]/, "")));
}

const PRODUCT_TYPES = ["Product", "ProductModel", "IndividualProduct", "SomeProducts", "Vehicle", "Book"];

/** Whether a record is a JSON-LD node that can hold products. */
export function isSchemaOrg(record: unknown): boolean {
  return (
    isNode(record) &&
    ("@type" in record || "@graph" in record) &&
    (isA(
      record,
      ...PRODUCT_TYPES,
      "ProductGroup",
      "ItemList",
      "ListItem",
      "OfferCatalog",
      "DataFeed",
      "DataFeedItem",
    ) ||
      "@graph" in record)
  );
}

/** The flat records of the products in a node: a group gives one for each of its variants, a list one for each member. */
export function productsIn(node: unknown, inherited: Node = {}): Node[] {
  if (!isNode(node)) return [];
  const inside = ["@graph", "itemListElement", "dataFeedElement", "item", "mainEntity"].flatMap((key) =>
    isA(node, ...PRODUCT_TYPES) ? [] : list(node[key]),
  );
  if (inside.length > 0) return inside.flatMap((inner) => productsIn(inner, inherited));
  if (isA(node, "ProductGroup")) {
    const { hasVariant, ...shared } = node;
    const variants = list(hasVariant);
    const family = text(node["productGroupID"]) || text(node["@id"]) || text(node["sku"]);
    if (variants.length === 0) return [flatProduct({ ...shared, inProductGroupWithID: family })];
    delete shared["sku"];
    delete shared["@id"];
    return variants.flatMap((variant) => productsIn(variant, { ...shared, inProductGroupWithID: family }));
  }
  if (!isA(node, ...PRODUCT_TYPES)) return [];
  return [flatProduct({ ...inherited, ...node })];
}

/** A node's own text: a name, a link or the plain value; the first of several. */
function text(value: unknown): string {
  for (const one of list(value)) {
    if (isNode(one)) {
      const inner = one["name"] ?? one["url"] ?? one["contentUrl"] ?? one["value"] ?? one["@id"];
      const found = text(inner);
      if (found !== "") return found;
    } else if (one !== null && one !== undefined && String(one).trim() !== "") return String(one).trim();
  }
  return "";
}

function flatProduct(node: Node): Node {
  const { offers, brand, image, category, additionalProperty, isVariantOf, inProductGroupWithID, ...rest } = node;
  const flat: Node = { id: text(node["sku"]) || text(node["productID"]) || text(node["@id"]) || text(node["url"]) };
  const offer = list(offers).find(isNode);
  if (offer) Object.assign(flat, flatOffer(offer));
  flat["brand"] = text(brand) || text(node["manufacturer"]);
  flat["image"] = list(image).map((one) => text(one));
  flat["category"] = list(category).map((one) => text(one));
  flat["family"] =
    text(inProductGroupWithID) ||
    (isNode(isVariantOf) ? text(isVariantOf["productGroupID"] ?? isVariantOf["@id"]) : "");
  for (const property of list(additionalProperty)) {
    if (isNode(property) && text(property["name"]) !== "") flat[text(property["name"])] = text(property["value"]);
  }
  for (const [key, value] of Object.entries(rest)) {
    if (key.startsWith("@") || key in flat) continue;
    flat[key === "url" ? "link" : key] = isNode(value) ? text(value) || value : value;
  }
  return flat;
}

function flatOffer(offer: Node): Node {
  const specification = list(offer["priceSpecification"]).find(isNode);
  const price = text(offer["price"] ?? offer["lowPrice"] ?? specification?.["price"]);
  const currency = text(offer["priceCurrency"] ?? specification?.["priceCurrency"]);
  return {
    price: `${price} ${currency}`.trim(),
    availability: text(offer["availability"]),
    link: text(offer["url"]),
    condition: text(offer["itemCondition"]).replace(/^.*\//, ""),
    quantity: isNode(offer["inventoryLevel"]) ? text(offer["inventoryLevel"]["value"]) : text(offer["inventoryLevel"]),
  };
}

/** The fields Hot Shelf knows by name. Everything else in a feed is kept under its own heading as an extra field. */
export interface FieldDefinition {
  key: FieldKey;
  label: string;
  kind: "text" | "money" | "count" | "availability";
  /** Without it an item can't be advertised. */
  required: boolean;
  about: string;
  /** Headings that usually carry this field, folded by `foldHeading`, best first. */
  headings: string[];
}

export const FIELD_KEYS = [
  "id",
  "title",
  "price",
  "link",
  "image",
  "availability",
  "brand",
  "category",
  "family",
  "salePrice",
  "cost",
  "stock",
  "description",
] as const;

export type FieldKey = (typeof FIELD_KEYS)[number];

export const FIELDS: FieldDefinition[] = [
  {
    key: "id",
    label: "Item ID",
    kind: "text",
    required: true,
    about: "The shop's own key of the item. It must be there and must not repeat.",
    headings: ["id", "itemid", "productid", "sku", "offerid", "articlenumber", "artnr", "itemnumber", "productnumber"],
  },
  {
    key: "title",
    label: "Title",
    kind: "text",
    required: true,
    about: "The name a shopper reads.",
    headings: ["title", "name", "productname", "producttitle", "itemname", "articlename"],
  },
  {
    key: "price",
    label: "Price",
    kind: "money",
    required: true,
    about: "The usual price, with or without a currency.",
    headings: ["price", "regularprice", "currentprice", "unitprice", "priceamount", "saleprice"],
  },
  {
    key: "link",
    label: "Landing link",
    kind: "text",
    required: false,
    about: "The item's page in the shop.",
    headings: ["link", "url", "producturl", "deeplink", "landingpage", "href"],
  },
  {
    key: "image",
    label: "Picture link",
    kind: "text",
    required: false,
    about: "The main picture.",
    headings: ["imagelink", "image", "imageurl", "picture", "pictureurl", "mainimage", "img"],
  },
  {
    key: "availability",
    label: "Availability",
    kind: "availability",
    required: false,
    about: "Whether it can be bought now.",
    headings: ["availability", "stockstatus", "instock", "available", "status"],
  },
  {
    key: "brand",
    label: "Brand",
    kind: "text",
    required: false,
    about: "The maker.",
    headings: ["brand", "manufacturer", "maker", "vendor", "label"],
  },
  {
    key: "category",
    label: "Category",
    kind: "text",
    required: false,
    about: "The shop's category path, levels parted by > or |.",
    headings: ["producttype", "category", "categorypath", "categories", "department", "breadcrumb", "productcategory"],
  },
  {
    key: "family",
    label: "Family",
    kind: "text",
    required: false,
    about: "What the variants of one product share.",
    headings: ["itemgroupid", "family", "familyid", "parentid", "parentsku", "groupid", "modelid"],
  },
  {
    key: "salePrice",
    label: "Sale price",
    kind: "money",
    required: false,
    about: "The price while reduced.",
    headings: ["saleprice", "specialprice", "discountprice", "reducedprice"],
  },
  {
    key: "cost",
    label: "Item cost",
    kind: "money",
    required: false,
    about: "What the item costs the shop; with the price it gives the margin.",
    headings: ["costofgoodssold", "cost", "itemcost", "purchaseprice", "cogs", "buyingprice"],
  },
  {
    key: "stock",
    label: "Stock",
    kind: "count",
    required: false,
    about: "Pieces on hand.",
    headings: ["quantity", "stock", "stocklevel", "qty", "inventory", "piecesonhand"],
  },
  {
    key: "description",
    label: "Description",
    kind: "text",
    required: false,
    about: "A longer text.",
    headings: ["description", "longdescription", "text", "details", "summary"],
  },
];

export const FIELD: Record<FieldKey, FieldDefinition> = Object.fromEntries(
  FIELDS.map((field) => [field.key, field]),
) as Record<FieldKey, FieldDefinition>;

/** A heading without namespace prefix, case, spaces and marks, so that `g:Item Group-ID` and `item_group_id` meet. */
export function foldHeading(heading: string): string {
  return heading
    .replace(/^[A-Za-z][\w.-]*:/, "")
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]/gu, "");
}

/** Category levels are split out of the path as fields of their own, this many. */
export const CATEGORY_LEVELS = 3;

const CATEGORY_SEPARATOR = /\s*[>›|»]\s*/;

/** The levels of a category path, top first; empty steps are left out. */
export function categoryLevels(path: string): string[] {
  return path
    .split(CATEGORY_SEPARATOR)
    .map((step) => step.trim())
    .filter((step) => step !== "");
}

export const AVAILABILITIES = ["in stock", "out of stock", "preorder", "backorder"] as const;
export type Availability = (typeof AVAILABILITIES)[number];

const AVAILABILITY_WORDS: Record<string, Availability> = {
  instock: "in stock",
  available: "in stock",
  yes: "in stock",
  true: "in stock",
  y: "in stock",
  "1": "in stock",
  lieferbar: "in stock",
  auflager: "in stock",
  enstock: "in stock",
  limitedavailability: "in stock",
  outofstock: "out of stock",
  soldout: "out of stock",
  unavailable: "out of stock",
  no: "out of stock",
  false: "out of stock",
  n: "out of stock",
  "0": "out of stock",
  ausverkauft: "out of stock",
  nichtlieferbar: "out of stock",
  discontinued: "out of stock",
  preorder: "preorder",
  backorder: "backorder",
};

/** What an availability text means, or null when it isn't understood. A schema.org address counts by its last part. */
export function readAvailability(text: string): Availability | null {
  if (AVAILABILITIES.includes(text as Availability)) return text as Availability;
  const last = text.includes("/") ? text.slice(text.lastIndexOf("/") + 1) : text;
  return AVAILABILITY_WORDS[last.toLowerCase().replace(/[^\p{L}\p{N}]/gu, "")] ?? null;
}

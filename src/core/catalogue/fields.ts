/** The fields Hot Shelf knows by name. Everything else in a feed is kept under its own heading as an extra field. */
export interface FieldDefinition {
  key: FieldKey;
  label: string;
  kind: "text" | "money" | "count" | "share" | "availability";
  /** Without it an item can't be advertised. */
  required: boolean;
  about: string;
  /** Words in a folded heading by which it is another thing, however much its values look like this one. */
  never?: RegExp;
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
  "fee",
  "stock",
  "gtin",
  "color",
  "size",
  "description",
  "tax",
] as const;

export type FieldKey = (typeof FIELD_KEYS)[number];

/** What a column is rather than a price: cost, a price by measure, postage, tax, or how much was taken off. */
const NO_PRICE =
  /cost|cogs|wholesale|einkauf|^ek|ekpreis|ekprice|purchase|buying|achat|compra|acquisto|inkoop|zakup|dealer|händler|supplier|grundpreis|baseprice|pricebase|unitpricing|priceper(?:measure|\d|kg|l$|litre|liter|m$|metre|meter|qm|sqm)|measure|shipping|versand|delivery|porto|margin|marge|taxrate|^tax|^vat|^mwst|discountper|rabatt|saving|points/;

export const FIELDS: FieldDefinition[] = [
  {
    key: "id",
    label: "Item ID",
    kind: "text",
    required: true,
    about: "The shop's own key of the item. It must be there and must not repeat.",
  },
  {
    key: "title",
    label: "Title",
    kind: "text",
    required: true,
    about: "The name a shopper reads.",
  },
  {
    key: "price",
    label: "Price",
    kind: "money",
    required: true,
    about: "The usual price, with or without a currency.",
    never: NO_PRICE,
  },
  {
    key: "link",
    label: "Landing link",
    kind: "text",
    required: false,
    about: "The item's page in the shop.",
  },
  {
    key: "image",
    label: "Picture link",
    kind: "text",
    required: false,
    about: "The main picture.",
  },
  {
    key: "availability",
    label: "Availability",
    kind: "availability",
    required: false,
    about: "Whether it can be bought now.",
  },
  {
    key: "brand",
    label: "Brand",
    kind: "text",
    required: false,
    about: "The maker.",
  },
  {
    key: "category",
    label: "Category",
    kind: "text",
    required: false,
    about: "The shop's category path, from the widest level to the narrowest.",
  },
  {
    key: "family",
    label: "Family",
    kind: "text",
    required: false,
    about: "What the variants of one product share.",
  },
  {
    key: "salePrice",
    label: "Sale price",
    kind: "money",
    required: false,
    about: "The price while reduced.",
    never: NO_PRICE,
  },
  {
    key: "cost",
    label: "Item cost",
    kind: "money",
    required: false,
    about: "What the item costs the shop; with the price it gives the margin.",
    never: /shipping|versand|delivery|porto/,
  },
  {
    key: "fee",
    label: "Fee",
    kind: "money",
    required: false,
    about: "What each sale costs beside the item: commission, packing, postage paid.",
  },
  {
    key: "stock",
    label: "Stock",
    kind: "count",
    required: false,
    about: "Pieces on hand.",
  },
  {
    key: "gtin",
    label: "GTIN",
    kind: "text",
    required: false,
    about: "The trade number under the bar code.",
  },
  {
    key: "color",
    label: "Color",
    kind: "text",
    required: false,
    about: "Tells variants of a family apart.",
  },
  {
    key: "size",
    label: "Size",
    kind: "text",
    required: false,
    about: "Tells variants of a family apart.",
  },
  {
    key: "description",
    label: "Description",
    kind: "text",
    required: false,
    about: "A longer text.",
  },
  {
    key: "tax",
    label: "Tax rate",
    kind: "share",
    required: false,
    about: "The sales tax on the item, where it is not the same for all; the workspace says which amounts hold it.",
    never: /id$|class|code|country|incl|inkl|price|preis|amount|betrag/,
  },
];

export const FIELD: Record<FieldKey, FieldDefinition> = Object.fromEntries(
  FIELDS.map((field) => [field.key, field]),
) as Record<FieldKey, FieldDefinition>;

/** A heading without namespace prefix, case, spaces and marks, so that `g:Item Group-ID` and `item_group_id` meet. */
export function foldHeading(heading: string): string {
  return heading
    .normalize("NFKC")
    .replace(/^[A-Za-z][\w.-]*:/, "")
    .toLowerCase()
    .replace(/[^\p{L}\p{M}\p{N}]/gu, "");
}

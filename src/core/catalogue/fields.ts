/** The fields Hot Shelf knows by name. Everything else in a feed is kept under its own heading as an extra field. */
export interface FieldDefinition {
  key: FieldKey;
  label: string;
  kind: "text" | "money" | "count" | "share" | "availability";
  /** Without it an item can't be advertised. */
  required: boolean;
  about: string;
  /** Headings that usually carry this field, folded by `foldHeading`, best first. */
  headings: string[];
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
    headings: [
      "id",
      "itemid",
      "productid",
      "sku",
      "offerid",
      "articlenumber",
      "artnr",
      "itemnumber",
      "productnumber",
      "artikelnummer",
      "artikelnr",
      "référence",
      "referencia",
    ],
  },
  {
    key: "title",
    label: "Title",
    kind: "text",
    required: true,
    about: "The name a shopper reads.",
    headings: [
      "title",
      "name",
      "productname",
      "producttitle",
      "itemname",
      "articlename",
      "bezeichnung",
      "produktname",
      "artikelname",
      "titel",
      "nom",
      "nombre",
      "naam",
    ],
  },
  {
    key: "price",
    label: "Price",
    kind: "money",
    required: true,
    about: "The usual price, with or without a currency.",
    headings: [
      "price",
      "regularprice",
      "currentprice",
      "unitprice",
      "priceamount",
      "preis",
      "prix",
      "precio",
      "prijs",
      "prezzo",
      "saleprice",
      "cena",
      "vkpreis",
      "verkaufspreis",
      "bruttopreis",
      "sellingprice",
      "retailprice",
      "listprice",
    ],
    never: NO_PRICE,
  },
  {
    key: "link",
    label: "Landing link",
    kind: "text",
    required: false,
    about: "The item's page in the shop.",
    headings: ["link", "url", "producturl", "deeplink", "landingpage", "href", "produktlink", "lien"],
  },
  {
    key: "image",
    label: "Picture link",
    kind: "text",
    required: false,
    about: "The main picture.",
    headings: [
      "imagelink",
      "image",
      "imageurl",
      "picture",
      "pictureurl",
      "mainimage",
      "img",
      "images",
      "pictures",
      "bild",
      "bildlink",
      "bildurl",
    ],
  },
  {
    key: "availability",
    label: "Availability",
    kind: "availability",
    required: false,
    about: "Whether it can be bought now.",
    headings: [
      "availability",
      "stockstatus",
      "instock",
      "available",
      "verfügbarkeit",
      "lieferstatus",
      "disponibilité",
      "disponibilidad",
      "status",
    ],
  },
  {
    key: "brand",
    label: "Brand",
    kind: "text",
    required: false,
    about: "The maker.",
    headings: ["brand", "manufacturer", "maker", "vendor", "marke", "hersteller", "marque", "marca", "merk", "label"],
  },
  {
    key: "category",
    label: "Category",
    kind: "text",
    required: false,
    about: "The shop's category path, from the widest level to the narrowest.",
    headings: [
      "producttype",
      "category",
      "categorypath",
      "categories",
      "department",
      "breadcrumb",
      "productcategory",
      "kategorie",
      "warengruppe",
      "catégorie",
      "categoría",
    ],
  },
  {
    key: "family",
    label: "Family",
    kind: "text",
    required: false,
    about: "What the variants of one product share.",
    headings: ["itemgroupid", "family", "familyid", "parentid", "parentsku", "groupid", "productgroupid", "modelid"],
  },
  {
    key: "salePrice",
    label: "Sale price",
    kind: "money",
    required: false,
    about: "The price while reduced.",
    headings: [
      "saleprice",
      "specialprice",
      "discountprice",
      "reducedprice",
      "aktionspreis",
      "sonderpreis",
      "angebotspreis",
    ],
    never: NO_PRICE,
  },
  {
    key: "cost",
    label: "Item cost",
    kind: "money",
    required: false,
    about: "What the item costs the shop; with the price it gives the margin.",
    headings: [
      "costofgoodssold",
      "cost",
      "itemcost",
      "purchaseprice",
      "cogs",
      "buyingprice",
      "ek",
      "einkaufspreis",
      "prixachat",
      "prixdachat",
      "wholesaleprice",
      "wholesale",
      "costprice",
      "netcost",
      "supplierprice",
      "dealerprice",
      "händlerpreis",
      "hek",
      "ekpreis",
      "ekprice",
      "landedcost",
      "preciodecompra",
      "inkoopprijs",
      "cenazakupu",
    ],
    never: /shipping|versand|delivery|porto/,
  },
  {
    key: "fee",
    label: "Fee",
    kind: "money",
    required: false,
    about: "What each sale costs beside the item: commission, packing, postage paid.",
    headings: ["fee", "sellingfee", "commission", "fulfilmentfee", "fulfillmentfee", "handlingcost", "shippingcost"],
  },
  {
    key: "stock",
    label: "Stock",
    kind: "count",
    required: false,
    about: "Pieces on hand.",
    headings: ["quantity", "stock", "stocklevel", "qty", "inventory", "piecesonhand", "bestand", "lagerbestand"],
  },
  {
    key: "gtin",
    label: "GTIN",
    kind: "text",
    required: false,
    about: "The trade number under the bar code.",
    headings: ["gtin", "ean", "gtin13", "gtin14", "gtin12", "gtin8", "upc", "barcode", "isbn"],
  },
  {
    key: "color",
    label: "Color",
    kind: "text",
    required: false,
    about: "Tells variants of a family apart.",
    headings: ["color", "colour", "colorname", "colourname", "farbe"],
  },
  {
    key: "size",
    label: "Size",
    kind: "text",
    required: false,
    about: "Tells variants of a family apart.",
    headings: ["size", "sizename", "productsize", "itemsize"],
  },
  {
    key: "description",
    label: "Description",
    kind: "text",
    required: false,
    about: "A longer text.",
    headings: ["description", "longdescription", "text", "details", "summary", "beschreibung"],
  },
  {
    key: "tax",
    label: "Tax rate",
    kind: "share",
    required: false,
    about: "The sales tax on the item, where it is not the same for all; the workspace says which amounts hold it.",
    headings: ["taxrate", "tax", "vatrate", "vat", "mwst", "mwstsatz", "steuersatz", "tva", "iva", "btw"],
    never: /id$|class|code|country|incl|inkl|price|preis|amount|betrag/,
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
  instoreonly: "in stock",
  onlineonly: "in stock",
  verfügbar: "in stock",
  sofortlieferbar: "in stock",
  disponible: "in stock",
  disponibile: "in stock",
  opvoorraad: "in stock",
  dostępny: "in stock",
  ja: "in stock",
  oui: "in stock",
  sí: "in stock",
  si: "in stock",
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
  nein: "out of stock",
  non: "out of stock",
  nichtverfügbar: "out of stock",
  nichtauflager: "out of stock",
  notavailable: "out of stock",
  notinstock: "out of stock",
  agotado: "out of stock",
  épuisé: "out of stock",
  esaurito: "out of stock",
  uitverkocht: "out of stock",
  niedostępny: "out of stock",
  preorder: "preorder",
  presale: "preorder",
  vorbestellbar: "preorder",
  backorder: "backorder",
  onbackorder: "backorder",
  madetoorder: "backorder",
  nachbestellt: "backorder",
};

/** What an availability text means, or null when it isn't understood. A schema.org address counts by its last part. */
export function readAvailability(text: string): Availability | null {
  if (AVAILABILITIES.includes(text as Availability)) return text as Availability;
  const last = text.includes("/") ? text.slice(text.lastIndexOf("/") + 1) : text;
  return AVAILABILITY_WORDS[foldWord(last)] ?? null;
}

/** A word without case, spaces and marks, by which availability words are known. */
export function foldWord(text: string): string {
  return text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, "");
}

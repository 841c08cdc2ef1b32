/** What can be wrong with a row. `grave` ones keep it out of the catalogue: it is set aside and reported. */
export interface Fault {
  code: FaultCode;
  grave: boolean;
  label: string;
  why: string;
  repair: string;
}

export const FAULT_CODES = [
  "id-missing",
  "id-duplicate",
  "title-missing",
  "price-missing",
  "price-unreadable",
  "price-negative",
  "price-absurd",
  "currency-unknown",
  "currency-other",
  "row-too-long",
  "cell-too-long",
  "sale-price-above",
  "availability-unknown",
  "category-missing",
  "link-broken",
  "title-long",
  "row-unreadable",
  "sale-price-unreadable",
  "cost-unreadable",
  "price-open",
  "price-several",
  "sale-price-zero",
] as const;

export type FaultCode = (typeof FAULT_CODES)[number];

const LONGEST_TITLE = 150;

function fault(code: FaultCode, grave: boolean, label: string, why: string, repair: string): Fault {
  return { code, grave, label, why, repair };
}

/** Every fault, defined once. The order is the bit in an item's `warnings`, which is stored: new ones go to the end. */
export const FAULTS: Fault[] = [
  fault(
    "id-missing",
    true,
    "No item ID",
    "Without an ID nothing can be traced to the item.",
    "Fill the ID in the shop.",
  ),
  fault(
    "id-duplicate",
    true,
    "Item ID used twice",
    "Two rows share an ID, so results of one would count for the other. The first row was kept.",
    "Give each item an ID of its own, or remove the repeated row.",
  ),
  fault("title-missing", true, "No title", "An ad without a name can't be shown.", "Fill the title in the shop."),
  fault("price-missing", true, "No price", "An ad can't be shown without a price.", "Fill the price in the shop."),
  fault(
    "price-unreadable",
    true,
    "Price not readable",
    "The price is no amount of money.",
    "Write it as a number, with or without a currency, such as 12.90 EUR.",
  ),
  fault("price-negative", true, "Price below zero", "No shop pays its buyers.", "Correct the price in the shop."),
  fault(
    "price-absurd",
    true,
    "Price beyond belief",
    "The price is above ten million, which is nearly always a lost decimal mark.",
    "Check the decimal and thousands marks.",
  ),
  fault(
    "currency-unknown",
    true,
    "Currency not known",
    "The price names a currency that does not exist.",
    "Use an ISO code such as EUR.",
  ),
  fault(
    "currency-other",
    true,
    "Another currency",
    "The price is in another currency than the workspace; amounts of two currencies are never added up.",
    "Export prices in the workspace's currency.",
  ),
  fault(
    "row-too-long",
    true,
    "More cells than headings",
    "The row has more cells than the header, so its values stand in the wrong columns.",
    "Usually an unquoted delimiter inside a text: quote it in the export.",
  ),
  fault(
    "cell-too-long",
    true,
    "A cell over the limit",
    "One cell is longer than a million characters.",
    "Shorten it, or close the quote that was left open.",
  ),
  fault(
    "sale-price-above",
    false,
    "Sale price above price",
    "Shoppers see a reduction that is none.",
    "Correct one of the two prices.",
  ),
  fault(
    "availability-unknown",
    false,
    "Availability not understood",
    "Whether the item can be bought is not known, so it gets no ads until somebody says what the word means.",
    "Say what the word means, or use in stock, out of stock, preorder or backorder.",
  ),
  fault(
    "category-missing",
    false,
    "No category",
    "A split by category leaves the item in its no-value branch.",
    "Fill the category, or split by another field.",
  ),
  fault(
    "link-broken",
    false,
    "Landing link malformed",
    "The link can't be opened as it is written.",
    "It must start with https://.",
  ),
  fault(
    "title-long",
    false,
    `Title over ${LONGEST_TITLE} characters`,
    "Most places cut it, often before the word that matters.",
    "Shorten it.",
  ),
  fault(
    "row-unreadable",
    true,
    "Row not readable",
    "The line is no record of the feed's format.",
    "Look at the line in the file: a bracket or quote is usually missing.",
  ),
  fault(
    "sale-price-unreadable",
    false,
    "Sale price not readable",
    "The item is taken to sell at its usual price.",
    "Write it as a number, or leave it empty.",
  ),
  fault(
    "cost-unreadable",
    false,
    "Cost or fee not readable",
    "The item has no margin, so its break-even return is not known.",
    "Write it as a number, or leave it empty.",
  ),
  fault(
    "price-open",
    true,
    "Price can be read two ways",
    "Nothing in the feed says whether the mark in a price such as 1.299 parts thousands or cents.",
    "Choose the decimal mark in the mapping, or write cents behind every price.",
  ),
  fault(
    "price-several",
    true,
    "Several prices that differ",
    "The item gives more than one price, and nothing says which one counts.",
    "Map the one that counts, or write each variant as a row of its own.",
  ),
  fault(
    "sale-price-zero",
    false,
    "Sale price of nothing",
    "A sale price of 0 would give the item away; it is taken to sell at its usual price.",
    "Leave the sale price empty where there is none.",
  ),
];

export const FAULT: Record<FaultCode, Fault> = Object.fromEntries(FAULTS.map((f) => [f.code, f])) as Record<
  FaultCode,
  Fault
>;

const BIT = new Map(FAULTS.map((f, i) => [f.code, 1 << i] as const));

/** The faults' bits, to keep an item's warnings in one number. */
export function faultBits(codes: FaultCode[]): number {
  return codes.reduce((bits, code) => bits | (BIT.get(code) as number), 0);
}

/** The fault codes in a number of bits. */
export function faultsIn(bits: number): FaultCode[] {
  return FAULTS.filter((f) => bits & (BIT.get(f.code) as number)).map((f) => f.code);
}

/** Whether a title is over the length most places show. */
export function isLongTitle(title: string): boolean {
  return title.length > LONGEST_TITLE;
}

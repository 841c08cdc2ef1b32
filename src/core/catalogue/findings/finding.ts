/** How much a finding matters, first what costs money every day: then rows kept out, worth repairing, good to know. */
export const SEVERITIES = ["money", "grave", "repair", "note"] as const;
export type Severity = (typeof SEVERITIES)[number];

export const SEVERITY_LABEL: Record<Severity, string> = {
  grave: "kept out",
  money: "costs money",
  repair: "to repair",
  note: "good to know",
};

/** What is wrong with items that stand in the catalogue, told by looking at all of them together. */
export interface Finding {
  code: FindingCode;
  severity: Severity;
  label: string;
  why: string;
  repair: string;
}

/** The order is the bit in the stored column `findings`: new ones go to the end. At most 52. */
export const FINDING_CODES = [
  "id-alike",
  "price-zero",
  "price-outlier",
  "cost-above-price",
  "image-missing",
  "image-shared",
  "link-missing",
  "link-shared",
  "title-shouting",
  "title-markup",
  "title-short",
  "title-doubled",
  "title-same",
  "brand-missing",
  "brand-spellings",
  "category-single",
  "category-spellings",
  "family-single",
  "family-proposed",
  "stock-contradicts",
  "gtin-wrong",
  "description-missing",
  "title-hidden",
] as const;

export type FindingCode = (typeof FINDING_CODES)[number];

function finding(code: FindingCode, severity: Severity, label: string, why: string, repair: string): Finding {
  return { code, severity, label, why, repair };
}

export const FINDINGS: Finding[] = [
  finding(
    "cost-above-price",
    "money",
    "Cost at or above the price",
    "Each sale loses money before a click is paid, so no bid can be right.",
    "Correct the cost or the price; until then exclude the items.",
  ),
  finding(
    "price-zero",
    "money",
    "Price of zero",
    "An ad with a price of nothing is refused or misleads.",
    "Fill the price in the shop.",
  ),
  finding(
    "price-outlier",
    "money",
    "Price far from its category",
    "More than fifty times above or below the category's middle price: nearly always a lost decimal mark.",
    "Check the decimal mark, or the category.",
  ),
  finding(
    "id-alike",
    "repair",
    "IDs that hardly differ",
    "They differ only by case, spaces or leading zeros. A spreadsheet or a report easily makes them one.",
    "Give the items clearly different IDs.",
  ),
  finding(
    "title-markup",
    "repair",
    "HTML in the title",
    "Tags and codes are shown to shoppers as they stand.",
    "A derived title can take them out.",
  ),
  finding(
    "title-hidden",
    "repair",
    "Hidden characters in the title",
    "Control or invisible characters break searching and cutting.",
    "A derived title can take them out.",
  ),
  finding(
    "title-shouting",
    "repair",
    "Title in capitals",
    "Capitals throughout read as shouting, and many places refuse them.",
    "A derived title can write it in title case.",
  ),
  finding(
    "title-doubled",
    "repair",
    "A word twice in a row",
    "Usually a brand or type joined on twice.",
    "Correct the title, or derive it.",
  ),
  finding(
    "title-short",
    "repair",
    "Title under ten letters",
    "Too little for a search to find, or a shopper to know.",
    "Derive a title from brand, title and size.",
  ),
  finding(
    "title-same",
    "repair",
    "Different items, one title",
    "Shoppers and reports can't tell them apart.",
    "Derive a title that adds what differs.",
  ),
  finding(
    "brand-spellings",
    "repair",
    "One brand, several spellings",
    "A split by brand makes a group for each spelling.",
    "A derived brand can bring them to one spelling.",
  ),
  finding(
    "category-spellings",
    "repair",
    "One category, several spellings",
    "Categories that differ only by case or spaces split what belongs together.",
    "A derived category can bring them to one spelling.",
  ),
  finding(
    "stock-contradicts",
    "repair",
    "Stock and availability disagree",
    "In stock with nothing on hand, or sold out with stock left: one of them is stale.",
    "Correct the feed; ads go by the availability.",
  ),
  finding(
    "family-proposed",
    "repair",
    "Variants the feed does not name",
    "Titles of one brand that differ only by colour, size or measure, without a family.",
    "Take the proposed families.",
  ),
  finding(
    "brand-missing",
    "repair",
    "No brand",
    "A split by brand leaves the item in its no-value branch.",
    "Fill the brand, or derive it from the title.",
  ),
  finding("image-missing", "repair", "No picture", "A listing ad without a picture is not shown.", "Add a picture."),
  finding("link-missing", "repair", "No landing link", "A click has nowhere to go.", "Add the item's address."),
  finding(
    "gtin-wrong",
    "repair",
    "GTIN with a wrong check digit",
    "Marketplaces match items by it and refuse a wrong one.",
    "Correct the number; a lost leading zero is common.",
  ),
  finding(
    "category-single",
    "note",
    "Categories with one item",
    "A campaign for each would have no data to learn from.",
    "Split by a higher level, or pool the rest.",
  ),
  finding(
    "family-single",
    "note",
    "Families with one member",
    "Either the other variants are missing from the feed, or it is no family.",
    "Check whether variants are left out of the export.",
  ),
  finding(
    "image-shared",
    "note",
    "One picture for many items",
    "Five or more families share it: usually a placeholder.",
    "Add the real pictures.",
  ),
  finding(
    "link-shared",
    "note",
    "One link for several families",
    "Clicks on different products land on one page.",
    "Check the links.",
  ),
  finding(
    "description-missing",
    "note",
    "No description",
    "Matching to searches has less to go by.",
    "Add a description.",
  ),
];

export const FINDING: Record<FindingCode, Finding> = Object.fromEntries(
  FINDINGS.map((one) => [one.code, one]),
) as Record<FindingCode, Finding>;

const PLACE = new Map(FINDING_CODES.map((code, i) => [code, i] as const));

/** The value of a finding's bit; bits go beyond 32, so they are added and told apart by division. */
export function findingBit(code: FindingCode): number {
  return 2 ** (PLACE.get(code) as number);
}

/** Whether a finding is among stored bits. */
export function hasFinding(bits: number, code: FindingCode): boolean {
  return Math.floor(bits / findingBit(code)) % 2 === 1;
}

/** All findings in stored bits. */
export function findingsIn(bits: number): FindingCode[] {
  return bits === 0 ? [] : FINDING_CODES.filter((code) => hasFinding(bits, code));
}

import { isBuyable } from "./field-changes";
import { readAvailability } from "./availability";
import { foldId } from "./findings/find";
import { isOf, parseMoneyBy } from "../kit/money";
import { productsIn } from "./schema-org";

/** What a look at a landing page can find, gravest first. */
export const LINK_STATES = ["gone", "sold-out", "variant", "price", "moved", "unreachable", "unread", "fine"] as const;
export type LinkState = (typeof LINK_STATES)[number];

export const LINK_STATE_LABEL: Record<LinkState, string> = {
  gone: "Page missing",
  "sold-out": "Sold out in the shop",
  variant: "Page of another item",
  price: "Another price on the page",
  moved: "Sends to another page",
  unreachable: "Page not reached",
  unread: "Page says no product data",
  fine: "As in the feed",
};

/** What the feed says about an item whose page is looked at. Money in mills. */
export interface CheckedItem {
  id: string;
  gtin: string;
  /** What a shopper pays. */
  price: number;
  currency: string;
  availability: string;
}

/** The JSON-LD blocks of a page. Blocks that are no JSON are left out. */
export function jsonLdIn(html: string): unknown[] {
  const blocks = html.matchAll(/<script[^>]*type\s*=\s*["']?application\/ld\+json["']?[^>]*>([\s\S]*?)<\/script>/gi);
  return [...blocks].flatMap(([, text]) => {
    try {
      const parsed: unknown = JSON.parse(text as string);
      return Array.isArray(parsed) ? parsed : [parsed];
    } catch {
      return [];
    }
  });
}

/**
 * Compares a landing page's product data (schema.org in JSON-LD) with the feed.
 * @param isOurs whether an ID is another item of the catalogue
 */
export function checkPage(
  html: string,
  item: CheckedItem,
  isOurs: (id: string) => boolean,
): { state: LinkState; detail: string } {
  const products = jsonLdIn(html).flatMap((node) => productsIn(node));
  const text = (product: Record<string, unknown>, key: string) => String(product[key] ?? "").trim();
  const own =
    products.find((product) => foldId(text(product, "id")) === foldId(item.id)) ??
    products.find((product) => item.gtin !== "" && text(product, "gtin13") === item.gtin) ??
    (products.length === 1 && !isOurs(text(products[0]!, "id")) ? products[0] : undefined);
  if (products.length === 0) return { state: "unread", detail: "The page holds no schema.org product." };
  if (!own) {
    const ids = products.map((product) => text(product, "id") || text(product, "name")).slice(0, 3);
    return { state: "variant", detail: `The page is that of ${ids.join(", ")}.` };
  }
  const availability = readAvailability(text(own, "availability"));
  if (availability !== null && !isBuyable(availability) && isBuyable(item.availability)) {
    return { state: "sold-out", detail: "The feed says it can be bought." };
  }
  // Pages say prices for machines, with a point.
  const price = parseMoneyBy(text(own, "price"), ".");
  if (price.ok && isOf(price, item.currency) && price.mills !== item.price) {
    const units = (mills: number) => (mills / 1000).toFixed(2);
    return { state: "price", detail: `${units(price.mills)} on the page, ${units(item.price)} in the feed.` };
  }
  return { state: "fine", detail: "" };
}

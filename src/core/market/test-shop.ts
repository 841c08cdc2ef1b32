import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { randomFrom } from "../kit/random";
import type { Structure } from "../account/account";
import { assetsKey, type Assets } from "../account/records/assets";
import { recordSchema, type AccountRecord } from "../account/records";
import type { Campaign } from "../account/records/campaign";

/** For tests: a shop of two categories with made-up items. */
export function testShop(items = 24, soldOut: number[] = []): Columns {
  const random = randomFrom("catalogue");
  const index = Array.from({ length: items }, (_, i) => i);
  return {
    length: items,
    columns: {
      itemNo: numberColumn(index.map((i) => i + 1)),
      id: textColumn(index.map((i) => `I${i}`)),
      title: textColumn(
        index.map((i) => `Brand${i % 3} ${["Oak", "Steel", "Small"][i % 3]} ${i % 2 ? "Hose" : "Rake"}`),
      ),
      brand: textColumn(index.map((i) => `Brand${i % 3}`)),
      category: textColumn(index.map((i) => (i % 2 ? "Garden > Hoses" : "Garden > Rakes"))),
      price: numberColumn(index.map(() => 5_000 + Math.round(60_000 * random()))),
      salePrice: numberColumn(index.map(() => null)),
      availability: textColumn(index.map((i) => (soldOut.includes(i) ? "out of stock" : "in stock"))),
    },
  };
}

/** For tests: a campaign with one ad group that shows the given items, by ID, and what it aims at. */
export function testCampaign(
  key: string,
  campaign: Partial<Campaign>,
  items: string[],
  bid: number,
  targets: Record<string, unknown>[] = [],
): Structure {
  const group = `g:${key}`;
  const records: Record<string, unknown>[] = [
    {
      type: "campaign",
      key,
      name: key,
      kind: "feed",
      purpose: "scale",
      bidding: "fixed",
      goal: null,
      dailyBudget: 500_000_000,
      status: "on",
      serveOrder: 5,
      inStockOnly: false,
      origin: null,
      ...campaign,
    },
    { type: "adGroup", key: group, campaign: key, name: key, status: "on", bid },
    node(`p:${key}`, group, null, "split", null, "id"),
    // An asset group needs something to show; the least that the channel takes.
    ...(campaign.kind === "asset" ? [leastAssets(group)] : []),
    ...items.map((item) => node(`p:${key}/${item}`, group, `p:${key}`, "unit", item, null)),
    ...targets.map((target, i) => ({ key: `t:${key}/${i}`, adGroup: group, status: "on", bid: null, ...target })),
  ];
  return Object.fromEntries(records.map((record) => [record["key"] as string, recordSchema.parse(record)]));
}

/** For tests: the least assets that an asset group serves with. */
export function leastAssets(adGroup: string): Assets {
  const line = (text: string) => [{ kind: "text" as const, text }];
  return {
    ...{ type: "assets", key: assetsKey(adGroup), adGroup, logo: null, ownBrand: true },
    headlines: [line("Made to last"), line("For your home")],
    descriptions: [line("Sent the same day.")],
    pictures: [{ from: "upload", picture: "shop" }],
  };
}

function node(
  key: string,
  adGroup: string,
  parent: string | null,
  role: string,
  value: string | null,
  by: string | null,
): Record<string, unknown> {
  return { type: "productGroup", key, adGroup, parent, role, value, by, status: "on", bid: null } satisfies Record<
    keyof AccountRecord | string,
    unknown
  >;
}

import type { Structure } from "@/core/account/account";
import { REACHES } from "@/core/account/records/reach";
import { recordSchema, type AccountRecord } from "@/core/account/records";
import type { Campaign } from "@/core/account/records/campaign";

/**
 * The untidy account that Quillmoor starts from. Each campaign has a fault in it that later stages must find;
 * `docs/demo.md` says which.
 */
const records: AccountRecord[] = [];

function put(record: Record<string, unknown>): void {
  records.push(recordSchema.parse(record));
}

function campaign(key: string, name: string, more: Partial<Campaign> & { dailyBudget: number }, bid: number): void {
  const base = { kind: "feed", purpose: "scale", bidding: "fixed", goal: null, status: "on", serveOrder: 5 };
  put({ type: "campaign", key: `c:${key}`, name, ...base, inStockOnly: false, origin: null, ...more });
  put({ type: "adGroup", key: `g:${key}`, campaign: `c:${key}`, name, status: "on", bid });
}

/** One value of a category level stands in the ad group; the remainder is open only where it is said so. */
function group(key: string, by: string, value: string, remainder: "on" | "closed"): void {
  const base = { type: "productGroup", adGroup: `g:${key}`, bid: null };
  const root = `p:${key}|`;
  put({ ...base, key: root, parent: null, role: "split", value: null, by, status: "on" });
  const slug = value.toLowerCase().replaceAll(" ", "-");
  put({ ...base, key: `${root}/${slug}`, parent: root, role: "unit", value, by: null, status: "on" });
  put({ ...base, key: `${root}/*`, parent: root, role: "remainder", value: null, by: null, status: remainder });
}

function keywords(key: string, list: [text: string, match: string, bid: number][]): void {
  for (const [text, match, bid] of list) {
    const id = `t:${key}/${match}/${text.replaceAll(" ", "-")}`;
    put({ type: "keyword", key: id, adGroup: `g:${key}`, text, match, status: "on", bid });
  }
}

// One campaign with everything in it, sold-out items included, an open remainder, one flat bid.
campaign("everything", "All products", { purpose: "catch-all", dailyBudget: 144_000 }, 520);
group("everything", "category1", "Watering", "on");

// A winner without budget: it returns well above the goal, and is out of money in the morning.
campaign("led", "LED panels", { dailyBudget: 1_250, serveOrder: 2, inStockOnly: true }, 520);
group("led", "category2", "LED panels", "closed");

// Runs dry in the course of the day, before the evening, when people buy.
campaign("gloves", "Gloves push", { purpose: "rank", dailyBudget: 4_500, serveOrder: 3, inStockOnly: true }, 420);
group("gloves", "category2", "Gloves", "closed");

// One broad keyword at a high bid takes nearly all there is, and starves the close ones beside it.
campaign("watering-words", "Watering keywords", { kind: "keyword", dailyBudget: 22_000, serveOrder: 3 }, 400);
group("watering-words", "category2", "Hoses", "closed");
keywords("watering-words", [
  ["hoses", "broad", 950],
  ["retracting hoses", "exact", 430],
  ["reinforced hoses", "exact", 430],
  ["flat hoses", "exact", 420],
  ["spiral hoses", "exact", 420],
  ["soaker hoses", "phrase", 400],
  ["buy hoses", "exact", 450],
]);

// Terms with our own brands in one campaign with generic ones: the good figures of the former hide the latter.
campaign("mixed", "Pest control keywords", { kind: "keyword", dailyBudget: 12_000, serveOrder: 3 }, 380);
group("mixed", "category2", "Pest control", "closed");
keywords("mixed", [
  ["veldine pest control", "phrase", 1_000],
  ["ottersby pest control", "phrase", 1_000],
  ["kestrelgate pest control", "phrase", 1_000],
  ["pest control", "broad", 980],
  ["cheap pest control", "phrase", 990],
]);

// A rival that is cheaper and better rated than anything we have: clicks, and next to no orders.
campaign(
  "conquest",
  "Against Wainford supports",
  { kind: "listing", purpose: "conquest", dailyBudget: 9_000, serveOrder: 4 },
  700,
);
group("conquest", "category2", "Plant supports", "closed");
put({
  type: "listingTarget",
  key: "t:conquest/wainford",
  adGroup: "g:conquest",
  aim: { by: "listing", listing: "wainford plant supports no. 1" },
  status: "on",
  bid: 1_200,
});

// All six automatic reaches at one price in one campaign.
campaign(
  "discover",
  "Discovery, raised beds",
  { kind: "discovery", purpose: "discover", dailyBudget: 7_500, serveOrder: 4 },
  380,
);
group("discover", "category1", "Raised beds", "closed");
for (const kind of REACHES) {
  put({ type: "reach", key: `t:discover/${kind}`, adGroup: "g:discover", kind, status: "on", bid: null });
}

export const UNTIDY: Structure = Object.fromEntries(records.map((record) => [record.key, record]));

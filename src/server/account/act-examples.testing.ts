import type { ActName } from "@/core/account/acts";
import type { AccountRecord } from "@/core/account/records";
import { leastAssets, testCampaign } from "@/core/market/test-shop";

/** For tests of acts: a small shop, an account on which every act has something to do, and an example of each. */

export const ACT_FEED = `id,title,price,brand,item_group_id\n${["1", "2", "3", "4"]
  .map((id) => `${id},Rake ${id},9.00,${id === "4" ? "Elm" : "Oak"},${id < "3" ? "f1" : ""}`)
  .join("\n")}\n`;

const set = (mills: number) => ({ how: "set", mills });

/** One edit of every act; an act without one fails to compile. `leaves` is a record that has it, and what it then says. */
export const ACT_EXAMPLES: Record<ActName, { edit: object; leaves: [key: string, has: object | null] }> = {
  status: {
    edit: { keys: ["c:a"], status: "paused", pausedFor: "spring is over", reviewOn: "2027-03-01" },
    leaves: ["c:a", { status: "paused", pausedFor: "spring is over", reviewOn: "2027-03-01" }],
  },
  budget: { edit: { keys: ["c:a"], op: set(33_000) }, leaves: ["c:a", { dailyBudget: 33_000 }] },
  bid: { edit: { keys: ["g:c:a"], op: { how: "percent", percent: 10 } }, leaves: ["g:c:a", { bid: 550 }] },
  pool: { edit: { keys: ["c:a"], pool: "pool:spring" }, leaves: ["c:a", { pool: "pool:spring" }] },
  "serve-order": { edit: { keys: ["c:a"], serveOrder: 2 }, leaves: ["c:a", { serveOrder: 2 }] },
  flex: {
    edit: { keys: ["c:a"], flex: { below: 0.2, above: 0.5 } },
    leaves: ["c:a", { flex: { below: 0.2, above: 0.5 } }],
  },
  "slot-factor": {
    edit: { keys: ["c:a"], slot: "lead-row", factor: 1.5 },
    leaves: ["c:a", { slots: { "lead-row": 1.5 } }],
  },
  "hour-factor": {
    edit: { keys: ["c:a"], hours: [0], factor: 0 },
    leaves: ["c:a", { hours: [0, ...Array.from({ length: 23 }, () => 1)] }],
  },
  "keep-out": {
    edit: {
      scope: "c:a",
      values: [{ what: "term", match: "phrase", value: "pictures" }],
      ...{ reason: "off-topic", reviewOn: "2027-03-01" },
    },
    leaves: ["n:c:a/term/phrase/pictures", { value: "pictures", reason: "off-topic", reviewOn: "2027-03-01" }],
  },
  "name-place": {
    edit: { what: "term", value: "elm rake", items: [{ id: "4", bid: 700 }], dailyBudget: 9000, serveOrder: 5 },
    leaves: ["t:g:terms-by-name/elm rake/4/exact", { text: "elm rake", match: "exact", bid: 700 }],
  },
  settings: { edit: { keys: ["c:a"], settings: { goal: 4.5 } }, leaves: ["c:a", { goal: 4.5 }] },
  folder: { edit: { keys: ["c:a"], folder: "Spring" }, leaves: ["c:a", { folder: "Spring" }] },
  rename: { edit: { keys: ["c:a"], name: "Rakes" }, leaves: ["c:a", { name: "Rakes" }] },
  "move-groups": { edit: { keys: ["g:c:a"], into: "c:b" }, leaves: ["g:c:a", { campaign: "c:b" }] },
  "move-target": {
    edit: { keys: ["t:c:k/0"], name: "Rake words", dailyBudget: 7_000 },
    leaves: ["c:rake-words", { name: "Rake words", dailyBudget: 7_000, kind: "keyword" }],
  },
  "item-bid": { edit: { items: ["1"], op: set(640) }, leaves: ["p:c:a/1", { bid: 640 }] },
  // What a click on it is worth lies far below the bid, so it goes down by one step: 500 ÷ 1.5, in whole cents.
  "worth-bid": { edit: { items: ["1"], towards: "goal", most: 50 }, leaves: ["p:c:a/1", { bid: 330 }] },
  exclude: {
    edit: { items: ["2"], reason: "unsafe", campaign: "c:a" },
    leaves: ["x:c:a/2", { campaign: "c:a", item: "2", reason: "unsafe" }],
  },
  include: { edit: { items: ["3"] }, leaves: ["x:everywhere/3", null] },
  solo: {
    edit: { items: ["1"], name: "The best rake", dailyBudget: 9_000, bid: 500 },
    leaves: ["c:the-best-rake", { dailyBudget: 9_000, serveOrder: 1 }],
  },
  "kept-out": {
    edit: { keys: ["x:everywhere/3"], reason: "off-topic", reviewOn: "2027-05-01" },
    leaves: ["x:everywhere/3", { reason: "off-topic", reviewOn: "2027-05-01" }],
  },
  assets: {
    edit: { keys: ["g:c:s"], assets: { ...leastAssets("g:c:s"), ownBrand: false } },
    leaves: ["a:g:c:s", { ownBrand: false }],
  },
  "ad-lines": {
    edit: {
      keys: ["ad:t"],
      headlines: ["Oak rakes", "Made to last"],
      descriptions: ["Order online."],
      address: "rakes",
    },
    leaves: ["ad:t", { headlines: ["Oak rakes", "Made to last"], address: "rakes", always: ["Oak rakes"] }],
  },
  amounts: {
    edit: { of: "budget", amounts: [{ key: "c:b", mills: 21_000, reason: "dry by noon" }] },
    leaves: ["c:b", { dailyBudget: 21_000 }],
  },
  "rename-value": { edit: { by: "id", from: "4", to: "5" }, leaves: ["p:c:b/4", { value: "5" }] },
};

/** The account that the examples are made on. */
export function actAccount(): Record<string, AccountRecord> {
  const made = {
    ...testCampaign("c:a", { name: "A", dailyBudget: 10_000 }, ["1", "2", "3"], 500),
    ...testCampaign("c:b", { name: "B", dailyBudget: 20_000 }, ["4"], 300),
    ...testCampaign("c:k", { name: "Words", kind: "keyword", dailyBudget: 5_000 }, ["1"], 400, [
      { type: "keyword", text: "rakes", match: "exact" },
      { type: "keyword", text: "oak rake", match: "broad" },
    ]),
    ...testCampaign("c:s", { name: "Shown", kind: "asset", dailyBudget: 5_000, serveOrder: 8 }, ["1"], 400),
    ...testCampaign("c:t", { name: "Text", kind: "text", dailyBudget: 5_000, serveOrder: 9 }, ["2"], 300, [
      { type: "keyword", text: "oak rakes", match: "exact" },
    ]),
    "ad:t": {
      type: "ad" as const,
      ...{ key: "ad:t", adGroup: "g:c:t", name: "Ad 1", status: "on" as const },
      ...{ headlines: ["Oak rakes", "Now €5"], descriptions: ["Good rakes."], address: "oak", always: ["Oak rakes"] },
    },
    "pool:spring": { type: "pool", key: "pool:spring", name: "Spring", dailyBudget: 40_000 } as const,
  };
  const out = { type: "exclusion", key: "x:everywhere/3", campaign: null, item: "3", reviewOn: null } as const;
  return { ...made, [out.key]: { ...out, reason: "wasteful" } };
}

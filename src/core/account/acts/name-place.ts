import { z } from "zod";
import { fail, ok } from "../../kit/outcome";
import { keywordFault } from "../../channel/keyword-fault";
import { defineAct } from "../act";
import { shortKey } from "../keys";
import { putTree } from "../own-tree";
import type { Target } from "../records";
import { amountSchema } from "../records/basics";

/** Where what is aimed at by name stands: a campaign for terms, one for pages. */
export const NAMED = {
  term: { key: "c:terms-by-name", name: "Terms by name", kind: "keyword" },
  listing: { key: "c:pages-by-name", name: "Pages by name", kind: "listing" },
} as const;

/** A term or a listing's page aimed at by name, for the items that do best there: an ad group for each, so that each bids what it is worth there. */
export const namePlace = defineAct({
  schema: z.object({
    action: z.literal("name-place"),
    what: z.enum(["term", "listing"]),
    value: z.string().trim().min(1).max(300),
    /** Items shown there, each with its bid, mills a click. */
    items: z
      .array(z.object({ id: z.string().min(1).max(500), bid: amountSchema }))
      .min(1)
      .max(50),
    /**
     * Mills a day and serve order of the campaign, where it is made with it. So that all together spend no more than before,
     * the workspace gets a day cap of as much where it has none.
     */
    dailyBudget: amountSchema,
    serveOrder: z.int().min(1).max(9),
  }),
  button: "Aim by name",
  title: "Aim by name",
  fits: [],
  affects: ["budgets"],
  words: ({ what, value }) => `${what === "term" ? "Exact keyword" : "Listing target"} with a bid of its own: ${value}`,
  apply: (draft, { what, value, items, dailyBudget, serveOrder }, factsOf) => {
    const fault = what === "term" ? keywordFault(value) : null;
    if (fault) return fail("aim-unfit", fault);
    if (what === "listing" && factsOf(value) !== null) {
      return fail(
        "aim-unfit",
        `“${value}” is an item of your own.`,
        "Aim at it in a campaign whose purpose is to defend.",
      );
    }
    const gone = items.find(({ id }) => factsOf(id) === null);
    if (gone !== undefined)
      return fail("aim-item-gone", `The catalogue has no item “${gone.id}”.`, "Choose another one.");
    const { key, name, kind } = NAMED[what];
    if (!draft.find("campaign", key)) {
      draft.put({
        ...{ type: "campaign", key, name, kind, purpose: "scale", bidding: "fixed", goal: null, status: "on" },
        ...{ dailyBudget, serveOrder, inStockOnly: true, origin: null },
      } as const);
      if (draft.all("dayCap").length === 0) draft.put({ type: "dayCap", key: "day-cap", dailyBudget });
    }
    for (const { id, bid } of items) {
      const adGroup = shortKey(`g:${key.slice(2)}/${value.toLowerCase()}/${id}`);
      if (draft.get(adGroup)) {
        return fail("aim-there", `“${value}” is aimed at by name for “${id}” already.`, "Change its bid instead.");
      }
      const title = items.length === 1 ? value : `${value} · ${id}`;
      draft.put({ type: "adGroup", key: adGroup, campaign: key, name: title.slice(0, 120), status: "on", bid });
      putTree(draft, adGroup, "id", [id]);
      draft.put(targetOf(what, value, adGroup, bid));
    }
    return ok(draft);
  },
});

function targetOf(what: "term" | "listing", value: string, adGroup: string, bid: number): Target {
  const base = { adGroup, status: "on", bid } as const;
  return what === "term"
    ? { ...base, type: "keyword", key: shortKey(`t:${adGroup}/exact`), text: value, match: "exact" }
    : { ...base, type: "listingTarget", key: shortKey(`t:${adGroup}/listing`), aim: { by: "listing", listing: value } };
}

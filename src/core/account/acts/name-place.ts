import { z } from "zod";
import { fail, ok } from "../../kit/outcome";
import { aimFault, type Aim } from "../../targets/aims";
import { targetsOf } from "../../targets/aim-records";
import { defineAct } from "../act";
import { shortKey } from "../keys";
import { putTree } from "../own-tree";
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
    /** Mills a day and serve order of the campaign, where it is made with it. */
    dailyBudget: amountSchema,
    serveOrder: z.int().min(1).max(9),
  }),
  button: "Aim by name",
  title: "Aim by name",
  fits: [],
  affects: ["budgets"],
  words: ({ what, value }) => `${what === "term" ? "Exact keyword" : "Listing target"} with a bid of its own: ${value}`,
  apply: (draft, { what, value, items, dailyBudget, serveOrder }, factsOf) => {
    const aim: Aim =
      what === "term" ? { what: "keyword", text: value, matches: ["exact"] } : { what: "listing", listing: value };
    const fault = aimFault(aim, (listing) => factsOf(listing) !== null, "scale");
    if (fault) return fail("aim-unfit", fault);
    const gone = items.find(({ id }) => factsOf(id) === null);
    if (gone !== undefined)
      return fail("aim-item-gone", `The catalogue has no item “${gone.id}”.`, "Choose another one.");
    const { key, name, kind } = NAMED[what];
    if (!draft.find("campaign", key)) {
      draft.put({
        ...{ type: "campaign", key, name, kind, purpose: "scale", bidding: "fixed", goal: null, status: "on" },
        ...{ dailyBudget, serveOrder, inStockOnly: true, origin: null },
      } as const);
    }
    for (const { id, bid } of items) {
      const adGroup = shortKey(`g:${key.slice(2)}/${value.toLowerCase()}/${id}`);
      if (draft.get(adGroup)) {
        return fail("aim-there", `“${value}” is aimed at by name for “${id}” already.`, "Change its bid instead.");
      }
      const title = items.length === 1 ? value : `${value} · ${id}`;
      draft.put({ type: "adGroup", key: adGroup, campaign: key, name: title.slice(0, 120), status: "on", bid });
      putTree(draft, adGroup, "id", [id]);
      for (const target of targetsOf([aim], adGroup, () => bid)) draft.put(target);
    }
    return ok(draft);
  },
});

import { z } from "zod";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { defineAct, type FactsOf } from "../act";
import { CHANNEL_LIMITS } from "../../channel/limits";
import type { Draft } from "../draft";
import { campaignNamed, freeKey, putTree } from "../own-tree";
import { amountSchema } from "../records/basics";
import { keysSchema } from "./on-records";

const asked = z.object({
  action: z.literal("solo"),
  items: keysSchema,
  name: z.string().trim().max(200),
  /** Mills a day, and mills a click. */
  dailyBudget: amountSchema,
  bid: amountSchema,
  serveOrder: z.int().min(1).max(9).default(1),
  /** Whether their whole families go along, and whatever joins those later. */
  families: z.boolean().default(false),
  /** Whether each gets a campaign by itself, called after the item; `name` then stands before the titles, or is empty. */
  each: z.boolean().default(false),
});
type Asked = z.output<typeof asked>;

/** A campaign of their own, served first; the homes that they have stay and take over when its money is gone. */
export const solo = defineAct({
  schema: asked,
  button: "Own campaign",
  title: "A campaign of their own",
  fits: ["item"],
  affects: ["homes", "budgets"],
  words: ({ each, name }) => (each ? "Lifted into a campaign each" : `Lifted into a campaign of its own: ${name}`),
  apply: (draft, intent, factsOf) =>
    intent.each ? makeSolos(draft, intent, factsOf) : makeSolo(draft, intent, (item) => factsOf(item)?.family ?? ""),
});

/**
 * Gives items a feed campaign of their own beside the homes that they have. It is served first; when its money is gone,
 * the old home takes over.
 */
function makeSolo(draft: Draft, intent: Asked, familyOf: (item: string) => string): Outcome<Draft> {
  const { name, dailyBudget, bid, serveOrder, families, items } = intent;
  if (name === "") return fail("name-missing", "The campaign has no name.", "Give it one.");
  if (campaignNamed(draft, name)) {
    return fail("name-taken", `There is a campaign called “${name}” already.`, "Choose another name.");
  }
  const lone = items.filter((item) => !families || familyOf(item) === "");
  const campaign = freeKey(draft, "c", name);
  draft.put({
    ...{ type: "campaign", key: campaign, name, kind: "feed", purpose: "scale", bidding: "fixed", goal: null },
    ...{ dailyBudget, status: "on", serveOrder, inStockOnly: true, origin: null },
  } as const);
  const putGroup = (title: string, by: "id" | "family", values: string[]) => {
    const adGroup = freeKey(draft, "g", `${campaign.slice(2)}-${by}`);
    draft.put({ type: "adGroup", key: adGroup, campaign, name: title, status: "on", bid });
    putTree(draft, adGroup, by, values);
  };
  const joined = items.filter((item) => !lone.includes(item)).map(familyOf);
  if (joined.length > 0) putGroup(name, "family", joined);
  if (lone.length > 0) putGroup(joined.length > 0 ? `${name}, single items` : name, "id", lone);
  return ok(draft);
}

/** Solos at once at most: each is a campaign that somebody has to look after. */
const MOST_SOLOS = 500;

/**
 * Gives each of the items a campaign by itself, called after it; of a family that goes along whole, the first item stands
 * for all. One that has such a campaign already keeps it.
 */
function makeSolos(draft: Draft, intent: Asked, factsOf: FactsOf): Outcome<Draft> {
  const familyOf = (item: string) => factsOf(item)?.family ?? "";
  const seen = new Set<string>();
  const chosen = intent.items.filter((item) => {
    const family = intent.families ? familyOf(item) : "";
    const of = family === "" ? `i:${item}` : `f:${family}`;
    return !seen.has(of) && seen.add(of);
  });
  if (chosen.length > MOST_SOLOS) {
    return fail(
      "solos-many",
      `${chosen.length} campaigns of one item each are more than anybody looks after; at most ${MOST_SOLOS} are made at once.`,
      "Take the best of them, or one campaign for all.",
    );
  }
  const taken = new Set(draft.account.all("campaign").map(({ name }) => name));
  for (const item of chosen) {
    const title = factsOf(item)?.title || item;
    const stem = [intent.name, title]
      .filter(Boolean)
      .join(" · ")
      .slice(0, CHANNEL_LIMITS.nameLength - ROOM);
    if (taken.has(stem)) {
      // The same title on another item: its ID tells them apart; the same item once more has its campaign.
      const own = `${stem} (${item})`.slice(0, CHANNEL_LIMITS.nameLength);
      if (taken.has(own) || servesAlready(draft, stem, item, intent.families ? familyOf(item) : "")) continue;
      taken.add(own);
      const made = makeSolo(draft, { ...intent, name: own, items: [item] }, familyOf);
      if (!made.ok) return made;
      continue;
    }
    taken.add(stem);
    const made = makeSolo(draft, { ...intent, name: stem, items: [item] }, familyOf);
    if (!made.ok) return made;
  }
  return ok(draft);
}

/** Left free in a name for what tells it from another. */
const ROOM = 24;

/** Whether the campaign of a name is the solo of this item or family. */
function servesAlready(draft: Draft, name: string, item: string, family: string): boolean {
  const campaign = campaignNamed(draft, name);
  const groups = draft.account.all("adGroup").filter((group) => group.campaign === campaign?.key);
  return groups.some(({ key }) =>
    draft.account.productGroups(key).some(({ value }) => value === item || (family !== "" && value === family)),
  );
}

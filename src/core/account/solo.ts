import { fail, ok, type Outcome } from "../kit/outcome";
import type { Draft } from "./draft";
import type { Intent } from "./intents";
import { campaignNamed, freeKey, putTree } from "./own-tree";

/**
 * Gives items a feed campaign of their own beside the homes that they have. It is served first; when its money is gone,
 * the old home takes over.
 */
export function makeSolo(
  draft: Draft,
  intent: Extract<Intent, { action: "solo" }>,
  familyOf: (item: string) => string,
): Outcome<Draft> {
  const { name, dailyBudget, bid, serveOrder, families, items } = intent;
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

import { z } from "zod";
import { fail, ok } from "../../kit/outcome";
import { defineAct } from "../act";
import { adFault, adSchema, type Ad } from "../records/ad";
import { keysSchema } from "./on-records";

/** Writes the lines of one text ad by hand; a copy plan leaves them as they are from then on. */
export const adLines = defineAct({
  schema: adSchema
    .pick({ headlines: true, descriptions: true })
    .extend({ action: z.literal("ad-lines"), keys: keysSchema.max(1, "One at a time."), address: z.string().max(100) }),
  button: "Lines",
  title: "Lines of the ad",
  fits: ["target"],
  affects: [],
  words: ({ headlines }) => `Lines of an ad written by hand: “${headlines[0] ?? ""}”`,
  apply: (draft, { keys, headlines, descriptions, address }) => {
    for (const key of keys) {
      const ad = draft.find("ad", key);
      if (!ad) return fail("edit-gone", "That ad is not in the account any more.", "Reload the list.");
      const { address: _, claims: __, always = [], ...rest } = ad;
      const stands = always.filter((line) => headlines.includes(line) || descriptions.includes(line));
      const next = { ...rest, headlines, descriptions, ...(address.trim() !== "" && { address: address.trim() }) };
      const claims = claimsLeft(ad, next);
      const fault = adFault(next);
      if (fault !== null) return fail("edit-ad-unfit", `The ad ${fault}.`, "Shorten it, or take it out.");
      draft.put({ ...next, ...(stands.length > 0 && { always: stands }), ...(claims && { claims }) });
    }
    return ok(draft);
  },
});

/** The figures that an ad still stands on: those that its lines said and say no more are no claim of it. */
function claimsLeft(before: Ad, after: Pick<Ad, "headlines" | "descriptions" | "address">): Ad["claims"] {
  const textOf = (ad: typeof after) => [...ad.headlines, ...ad.descriptions, ad.address ?? ""].join("\n");
  const [was, is] = [textOf(before), textOf(after)];
  const left = Object.entries(before.claims ?? {}).filter(([, said]) => !was.includes(said) || is.includes(said));
  return left.length === 0 ? undefined : Object.fromEntries(left);
}

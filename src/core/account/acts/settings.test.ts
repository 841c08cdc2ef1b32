import { describe, expect, it } from "vitest";
import { testCampaign } from "../../market/test-shop";
import { Account } from "../account";
import { editSchema, makeEdit } from ".";
import { nameFollowing } from "../name-clash";

const account = Account.fromStructure({
  ...testCampaign("c:a", { name: "Seeds, Rank", purpose: "rank" }, ["I0"], 300),
  ...testCampaign("c:b", { name: "Hoses rank", purpose: "rank", goal: 4 }, ["I1"], 300),
  ...testCampaign("c:c", { name: "Hoses scale", purpose: "scale" }, ["I2"], 300),
});
const set = (keys: string[], settings: object, more: object = {}) =>
  makeEdit(account, editSchema.parse({ action: "settings", keys, settings, ...more }), () => null, "EUR");
const after = (keys: string[], settings: object, more: object = {}) => {
  const made = set(keys, settings, more);
  if (!made.ok) throw new Error(made.error.message);
  return keys.map((key) => made.value.find("campaign", key)!);
};

describe("settings of campaigns that run", () => {
  it("are set where they are given, and names that say the old purpose follow, unless another is called so", () => {
    const [a, b] = after(["c:a", "c:b"], { purpose: "scale", endsOn: "2026-12-24" });
    expect(a).toEqual({ ...account.get("c:a"), purpose: "scale", endsOn: "2026-12-24", name: "Seeds, Scale" });
    // There is a "Hoses scale" already, so the name stays, and says what it should not.
    expect(b).toMatchObject({ name: "Hoses rank", purpose: "scale", goal: 4 });
    expect(after(["c:a"], { purpose: "scale" }, { namesFollow: false })[0]!.name).toBe("Seeds, Rank");
  });

  it("take a country away by null", () => {
    const draft = set(["c:a"], { country: "FR" });
    const there = draft.ok ? draft.value.after() : account;
    expect(there.find("campaign", "c:a")).toMatchObject({ country: "FR" });
    const gone = makeEdit(
      there,
      editSchema.parse({ action: "settings", keys: ["c:a"], settings: { country: null } }),
      () => null,
      "EUR",
    );
    expect(gone.ok && gone.value.find("campaign", "c:a")).toEqual(account.get("c:a"));
  });

  it("are refused in a sentence where they do not agree, and nothing is set", () => {
    expect(set(["c:b", "c:a"], { bidding: "return" })).toMatchObject({ ok: false, error: { code: "goal-missing" } });
    expect(set(["c:b"], { bidding: "return" }).ok).toBe(true);
    expect(set(["c:a"], { startsOn: "2026-12-24", endsOn: "2026-12-01" })).toMatchObject({
      ok: false,
      error: { code: "days-reversed", message: expect.stringContaining("2026-12-01") },
    });
    expect(editSchema.safeParse({ action: "settings", keys: ["c:a"], settings: {} }).success).toBe(false);
  });

  it("leave names alone where the word is part of another", () => {
    expect(nameFollowing("Ranking of seeds", "rank", "scale")).toBe("Ranking of seeds");
    expect(nameFollowing("RANK · seeds", "rank", "catch-all")).toBe("Catch-all · seeds");
    expect(nameFollowing("seeds/rank", "rank", "scale")).toBe("seeds/scale");
  });
});

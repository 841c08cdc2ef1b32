import { describe, expect, it } from "vitest";
import { testCampaign } from "../market/test-shop";
import { Account } from "./account";
import { checkDiff, leftBehind } from "./checks";
import { adGroupOff, campaignOff, NONE_DRY, productGroupOff } from "./off";
import { emptyDiff } from "../kit/diff";
import type { AccountRecord } from "./records";

const account = Account.fromStructure({
  ...testCampaign("c:a", { name: "A" }, ["I0", "I1"], 500),
  ...testCampaign("c:k", { name: "Terms", kind: "keyword" }, ["I0"], 500, [
    { type: "keyword", text: "rakes", match: "exact" },
  ]),
  ...testCampaign("c:l", { name: "Pages", kind: "listing" }, ["I0"], 500),
});
const asked = { items: 2, dry: NONE_DRY, today: "2026-11-30", isNew: false };

describe("why something serves nothing", () => {
  it("is the reason of what it hangs in, by its own word, down to product groups", () => {
    const campaign = account.find("campaign", "c:a")!;
    const [adGroup] = account.all("adGroup");
    const below = (change: object, items: number) => {
      const above = campaignOff({ ...campaign, ...change }, { ...asked, items: 1 });
      const group = adGroupOff(adGroup!, { above, items, waits: false });
      return [group, productGroupOff({ status: "on" }, { above: group, items })];
    };
    // Nothing is served there, so no item is counted: that is not the reason.
    expect(below({ country: "FR" }, 0)).toEqual(["elsewhere", "elsewhere"]);
    expect(below({ startsOn: "2027-01-01" }, 0)).toEqual(["early", "early"]);
    expect(below({ endsOn: "2026-11-01" }, 0)).toEqual(["ended", "ended"]);
    expect(below({ status: "paused" }, 0)).toEqual(["above", "above"]);
    expect(below({}, 0)).toEqual(["no-items", "no-items"]);
    expect(below({}, 2)).toEqual([null, null]);
    expect(productGroupOff({ status: "closed" }, { above: "elsewhere", items: 0 })).toBe("closed");
  });
});

describe("checks of what was moved", () => {
  const diffTo = (key: string, change: object) => {
    const from = account.get(key)!;
    return {
      ...emptyDiff<AccountRecord>(),
      changed: { [key]: [from, { ...from, ...change } as AccountRecord] as never },
    };
  };
  const codes = (diff: Parameters<typeof checkDiff>[1]) => checkDiff(account, diff, "EUR").map(({ code }) => code);

  it("find a keyword in a campaign that aims at listings, moved by itself or with its ad group", () => {
    const [keyword] = account.all("keyword");
    expect(codes(diffTo(keyword!.key, { adGroup: "g:c:l" }))).toContain("target-kind");
    expect(codes(diffTo("g:c:k", { campaign: "c:l" }))).toContain("target-kind");
    expect(codes(diffTo("g:c:k", { name: "another" }))).not.toContain("target-kind");
  });

  it("find what a removal would leave hanging in the air", () => {
    const removed = { "c:a": account.get("c:a")! };
    const left = leftBehind(account, { ...emptyDiff<AccountRecord>(), removed });
    expect(left.map(({ key }) => key)).toEqual(["g:c:a"]);
    expect(leftBehind(account, diffTo("c:a", { name: "B" }))).toEqual([]);
  });
});

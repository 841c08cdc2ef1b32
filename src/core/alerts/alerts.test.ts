import { describe, expect, it } from "vitest";
import { parseDay } from "../kit/days";
import { noSums } from "../kit/metrics";
import { mills } from "../kit/money";
import type { StockDay } from "../stocktake/material";
import { ALERT_KINDS, judgeAlert, type AlertFacts } from "./alerts";
import { digestHtml, digestLines, foundWords, lastWeek, type Digest } from "./digest";

const FIRST = 20_700;

/** Days alike: 100 clicks for 50.00, and orders of 40.00 each. */
function days(count: number, orders = 5, cost = 50_000): StockDay[] {
  return Array.from({ length: count }, (_, at) => ({
    ...{ day: FIRST + at, clicks: 100, seenClicks: 100, cost },
    ...{ orders, revenue: orders * 40_000 },
  }));
}

const FACTS: AlertFacts = {
  ...{ now: 1_000 * 3_600_000, goal: 3, currency: "EUR" },
  daily: days(56),
  feedReadAt: 990 * 3_600_000,
  dry: [],
  homeless: 0,
  soldOut: { items: 0, cost: 0, of: 350_000 },
  turned: [],
};
const judge = (kind: (typeof ALERT_KINDS)[number], given: Partial<AlertFacts>, limit: number | null = null) =>
  judgeAlert(kind, limit, { ...FACTS, ...given });

describe("alerts", () => {
  it("are quiet where all is well, and unknown where nothing is told", () => {
    for (const kind of ALERT_KINDS) expect(judge(kind, {}), kind).toMatchObject({ state: "quiet" });
    const nothing = { daily: null, feedReadAt: null, dry: null, homeless: null, soldOut: null, turned: null };
    for (const kind of ALERT_KINDS) expect(judge(kind, nothing), kind).toMatchObject({ state: "unknown" });
  });

  it("speak of a return only where luck does not explain it", () => {
    // 35 orders in the last week: 35 × 40 ÷ 350 = 4. The upper end at 14 orders: 1.6 × (1 + 1.2816 ÷ √14) = 2.148 < 2.4.
    expect(judge("return", { daily: [...days(49), ...days(7, 2)] })).toMatchObject({ state: "speaks" });
    // Two orders: 0.2286 × (1 + 1.2816 ÷ √2) is far below the limit of 2.4 too.
    expect(judge("return", { daily: [...days(49), ...days(6, 0), ...days(1, 2)] }).state).toBe("speaks");
    // 1.829 by 16 orders: 1.829 × (1 + 1.2816 ÷ 4) = 2.415 > 2.4, which luck may explain.
    const doubtful = judge("return", { daily: [...days(49), ...days(6, 2), ...days(1, 4)] });
    expect(doubtful.state).toBe("quiet");
    expect(doubtful.says).toContain("Luck may explain it.");
    // No order at all: at most 2.303 × 40 of sales for 350, against 2.4 × 350 for the limit.
    expect(judge("return", { daily: [...days(49), ...days(7, 0)] }).state).toBe("speaks");
    // As little as 20 spent: 2.303 × 40 ÷ 20 = 4.6, so nothing is known.
    expect(judge("return", { daily: [...days(49), ...days(7, 0, 20_000 / 7)] }).state).toBe("quiet");
  });

  it("reckon late orders in", () => {
    const late = days(7, 2).map((day) => ({ ...day, seenClicks: 40 }));
    // 14 orders of 40 % of the clicks stand for 35.
    expect(judge("return", { daily: [...days(49), ...late] })).toMatchObject({ state: "quiet" });
  });

  it("hold spend against the four weeks before, either way", () => {
    expect(judge("spend", { daily: [...days(49), ...days(7, 5, 71_000)] })).toMatchObject({
      state: "speaks",
      says: "€71 a day over the last 7 days, €50 over the 28 before: +42 %.",
    });
    expect(judge("spend", { daily: [...days(49), ...days(7, 5, 69_000)] }).state).toBe("quiet");
    expect(judge("spend", { daily: [...days(49), ...days(7, 5, 20_000)] })).toMatchObject({ state: "speaks" });
    expect(judge("spend", { daily: days(10) }).state).toBe("unknown");
  });

  it("tell orders that are no longer counted, not a day without luck", () => {
    expect(judge("tracking", { daily: [...days(50), ...days(6, 0)] })).toMatchObject({ state: "speaks" });
    expect(judge("tracking", { daily: [...days(55), ...days(1, 0)] })).toMatchObject({ state: "quiet" });
  });

  it("keep to their limits", () => {
    expect(judge("dry", { dry: ["A", "B"] })).toMatchObject({ state: "speaks" });
    expect(judge("dry", { dry: ["A", "B"] }, 3)).toMatchObject({ state: "quiet" });
    expect(judge("feed", {}, 9)).toEqual({ state: "speaks", says: "The feed was read 10 hours ago." });
    expect(judge("feed", {}, 10).state).toBe("quiet");
    expect(judge("homeless", { homeless: 6 }, 6).state).toBe("quiet");
    expect(judge("homeless", { homeless: 7 }, 6).state).toBe("speaks");
    expect(judge("sold-out", { soldOut: { items: 2, cost: 14_000, of: 350_000 } }, 3)).toEqual({
      state: "speaks",
      says: "2 items that can't be bought took €14 of the last 7 days, 4.0 % of the spend.",
    });
    expect(judge("sold-out", { soldOut: { items: 2, cost: 14_000, of: 350_000 } }, 4).state).toBe("quiet");
    expect(judge("turned", { turned: ["B1"] }).says).toBe("B1 paid and no longer does.");
  });
});

const WEEK: Digest = {
  ...{ from: FIRST, to: FIRST + 6, currency: "EUR", goal: 3 },
  week: { ...noSums(), clicks: 700, cost: mills(350_000), orders: 35, revenue: mills(1_400_000) },
  before: { ...noSums(), clicks: 700, cost: mills(280_000), orders: 35, revenue: mills(1_400_000) },
  missing: [],
  sent: { dispatches: 1, changes: 12 },
  alerts: [{ kind: "feed", says: "The feed was read <b>10 hours</b> ago." }],
  found: { findings: [], all: 3, mended: 2, fresh: 1 },
  moves: [{ key: "m", what: "0.40 → 0.55", about: "Oak rake", stake: 30_000 }],
};

describe("weeks", () => {
  it("are Mondays to Sundays that are over", () => {
    const sunday = parseDay("2026-11-29");
    expect(lastWeek(sunday)).toEqual({ from: parseDay("2026-11-23"), to: sunday });
    expect(lastWeek(sunday + 1)).toEqual({ from: parseDay("2026-11-23"), to: sunday });
    expect(lastWeek(sunday - 1)).toEqual({ from: parseDay("2026-11-16"), to: parseDay("2026-11-22") });
  });

  it("stand beside the week before; what is not told has no value", () => {
    const of = (digest: Digest) => Object.fromEntries(digestLines(digest).map((line) => [line.metric, line]));
    expect(of(WEEK)["cost"]).toEqual({ metric: "cost", now: 350_000, then: 280_000, change: 0.25 });
    expect(of(WEEK)["roas"]).toMatchObject({ now: 4, then: 5, change: 4 / 5 - 1 });
    expect(of({ ...WEEK, missing: ["revenue"] })["roas"]).toMatchObject({ now: null, then: null, change: null });
    expect(of({ ...WEEK, before: null })["cost"]).toMatchObject({ now: 350_000, then: null, change: null });
  });

  it("say what was mended, where a week before was told", () => {
    expect(foundWords(WEEK)).toBe("3 findings, 2 mended and 1 new since the week before.");
    expect(foundWords({ found: { ...WEEK.found!, mended: null, fresh: null } })).toBe("3 findings.");
    expect(foundWords({ found: null })).toContain("can't be told");
  });

  it("are a file that opens without a network, and takes no text for markup", () => {
    const html = digestHtml(WEEK, "Rakes & Co");
    expect(html).toContain("Rakes &amp; Co, week of");
    expect(html).toContain("&lt;b&gt;10 hours");
    expect(html).not.toMatch(/src=|href=|@import|url\(/);
    expect(html).toContain("<td>€350.00</td><td>€280.00</td><td>+25 %</td>");
  });
});

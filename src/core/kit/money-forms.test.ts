import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { isOf, MILLS_PER_UNIT, parseMoney } from "./money";

/** Forms with what they say, worked out by hand: an amount in mills and its currency, or why it is not read. */
describe("amounts as shops write them", () => {
  it.each([
    [".90", 900],
    [",99 €", 990],
    ["€ .5", 500],
    ["1.5e1", 15_000],
    ["1,5E+01 EUR", 15_000],
    ["2e-1", 200],
    ["１２．９０", 12_900],
    ["￥1200", 1_200_000],
    ["١٢٫٩٠ EUR", 12_900],
    ["१,२३,४५६.५०", 123_456_500],
    ["1,23,456", 123_456_000],
    ["12\u200b,90\u00a0€", 12_900],
    ["1 299,00 Kč", 1_299_000],
    ["12,90 ευρώ", 12_900],
    ["CA$12.90", 12_900],
    ["US$ 1,299.00", 1_299_000],
    ["0.999", 999],
    ["1299.000", 1_299_000],
    ["0,004 EUR", 4],
    ["ca.12,90", 12_900],
    ["+12.90", 12_900],
  ])("reads %s", (text, mills) => expect(parseMoney(text)).toMatchObject({ ok: true, mills }));

  it.each([
    ["(12,90)", "negative"],
    ["(12,90 €)", "negative"],
    ["–12,90", "negative"],
    ["—12,90", "negative"],
    ["‒ 12.90 EUR", "negative"],
    ["€ –5", "negative"],
    ["－12.90", "negative"],
    ["12,90–", "unreadable"],
    ["12 90", "unreadable"],
    ["12 9", "unreadable"],
    ["1'29.00", "unreadable"],
    ["1.29,999.00", "unreadable"],
    ["1.299 €", "open"],
    ["1,299", "open"],
    ["USD.90", "open"],
    ["0.0004", "unreadable"],
    ["0.0125", "unreadable"],
    ["12.90 EUR / 11.50 CHF", "unreadable"],
    ["12.90 EUR CHF", "unknown-currency"],
    ["½", "unreadable"],
    ["zwölf Euro", "unreadable"],
    ["1e400", "absurd"],
  ])("does not guess %s: %s", (text, fault) => expect(parseMoney(text)).toEqual({ ok: false, fault }));

  it("reads what is open by the feed's own mark, and refuses what contradicts it", () => {
    expect([parseMoney("1.299 €", ","), parseMoney("1.299 €", ".")]).toMatchObject([
      { mills: 1_299_000 },
      { mills: 1299 },
    ]);
    expect([parseMoney("1,299", "."), parseMoney("1,299", ",")]).toMatchObject([{ mills: 1_299_000 }, { mills: 1299 }]);
    expect(parseMoney("12.5", ",")).toEqual({ ok: false, fault: "unreadable" });
    expect(parseMoney("1.234,50", ".")).toEqual({ ok: false, fault: "unreadable" });
  });

  it("takes a sign of several currencies for the one that is asked about, and for no other", () => {
    const dollars = parseMoney("$12.90");
    const forints = parseMoney("12.90 Ft");
    if (!dollars.ok || !forints.ok) throw new Error("not read");
    expect(["USD", "AUD", "CAD", "EUR"].map((currency) => isOf(dollars, currency))).toEqual([true, true, true, false]);
    expect(["HUF", "EUR"].map((currency) => isOf(forints, currency))).toEqual([true, false]);
  });
});

/** Forty languages of shops, by what groups, parts and names amounts there. */
const LOCALES =
  "en-US en-GB en-IN en-ZA en-CA de-DE de-AT de-CH fr-FR fr-CH fr-CA es-ES es-MX it-IT nl-NL pt-PT pt-BR pl-PL cs-CZ sk-SK sv-SE da-DK nb-NO fi-FI hu-HU ro-RO bg-BG el-GR hr-HR sl-SI et-EE lv-LV lt-LT tr-TR uk-UA ru-RU ar-EG fa-IR he-IL hi-IN bn-BD th-TH ja-JP ko-KR zh-CN mr-IN my-MM ne-NP".split(
    " ",
  );
const CURRENCIES = ["EUR", "USD", "GBP", "CHF", "CZK", "JPY", "INR", "KWD", "HUF", "PLN"];

describe("an amount in forty languages", () => {
  const written = fc.record({
    locale: fc.constantFrom(...LOCALES),
    currency: fc.constantFrom(...CURRENCIES),
    currencyDisplay: fc.constantFrom("symbol", "narrowSymbol", "code", "name"),
    currencySign: fc.constantFrom("standard", "accounting"),
    minimumFractionDigits: fc.constantFrom(0, 2, 3),
    mills: fc.oneof(fc.integer({ min: -20_000, max: 20_000 }), fc.integer({ min: -9_000_000_000, max: 9_000_000_000 })),
    mark: fc.constantFrom("auto", "own"),
  });

  it("comes back as that amount, or is set aside, and never as another one", () => {
    let read = 0;
    let all = 0;
    fc.assert(
      fc.property(written, ({ locale, currency, mills, mark, minimumFractionDigits, ...rest }) => {
        const maximumFractionDigits = 3;
        const format = new Intl.NumberFormat(locale, {
          ...{ style: "currency", currency, minimumFractionDigits, maximumFractionDigits },
          ...(rest as Intl.NumberFormatOptions),
        });
        const text = format.format(mills / MILLS_PER_UNIT);
        const own = format.formatToParts(1.5).find(({ type }) => type === "decimal")?.value;
        const known = mark === "own" && (own === "." || own === ",") ? own : "auto";
        const parsed = parseMoney(text, known, Infinity);
        all++;
        if (!parsed.ok) return;
        read++;
        expect([text, parsed.mills]).toEqual([text, mills]);
        // A currency that is read is the one that was written, or one that has the same sign.
        expect([text, isOf(parsed, currency)]).toEqual([text, true]);
      }),
      { numRuns: 6000 },
    );
    // Half of them are below nothing; of the others most are read.
    expect(read / all).toBeGreaterThan(0.25);
  });
});

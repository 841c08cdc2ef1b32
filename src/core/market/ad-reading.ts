import type { Ad } from "../account/records/ad";
import { CHANNEL_LIMITS } from "../channel/limits";
import { comparedWords, stem } from "../channel/matching";
import { shorten } from "../parts/steps";
import { parseMoneyBy } from "../kit/money";
import { amountsIn } from "../copy/awkward";
import type { Nature } from "./nature";

/*
 * What shoppers make of a text ad. Nothing here is told to anybody who advertises: what a line really brings is learned from
 * reports. Each part moves clicks or orders by a factor e^(part of the world's nature × how far the ad has it).
 */

/** What an ad does to clicks and to orders a click, against an ad that says what is searched for and no more. */
export interface AdEffect {
  clicks: number;
  orders: number;
}

/** No ad does more or less than this to clicks or orders. */
export const AD_EFFECT_RANGE = { least: 0.5, most: 1.8 } as const;

/** An ad as shoppers read it. */
interface ReadAd {
  stems: ReadonlySet<string>;
  /** How much of what a wide view shows there is to choose from, 0 to 1. */
  fullness: number;
  isCut: boolean;
  /** Amounts of money it names, in mills; and whether they are said to be where prices begin. */
  amounts: number[];
  saysFrom: boolean;
  saysOff: boolean;
  /** The number that it says are left, or NaN. */
  left: number;
  /** Ad groups that say the very same. */
  alike: number;
}

/** Lines of each list beyond which choice brings no more. */
const PLENTY = { headlines: 6, descriptions: 3 } as const;
/** Few enough left to hurry, and so many that saying so puts off. */
const FEW_LEFT = 5;
const MANY_LEFT = 20;
/** What a wrong price does to orders. */
const WRONG_PRICE = -0.35;
const LEFT = /\b(\d{1,4}) (?:left|übrig|restant|restants|rimasti|over)\b|\bnoch (\d{1,4})\b/i;
const FROM = /\b(?:from|ab|dès|desde|da|vanaf)\s[€$£\d]/i;
const OFF = /(?:−|-)\s?\d{1,2}\s?%|\d{1,2}\s?%\s?(?:off|günstiger|rabatt|korting)|\bsave\b|\bspare\b/i;

/** Reads ads for the market. */
export class AdReader {
  private readonly known = new Map<string, ReadAd>();
  private readonly alike = new Map<string, number>();
  private readonly wanted = new Map<string, string[]>();

  /** @param ads all that the account shows, so that the same text in many places is known as such */
  constructor(
    private readonly nature: Nature,
    ads: readonly Ad[],
  ) {
    for (const ad of ads) {
      const text = ad.headlines.join("\n");
      this.alike.set(text, (this.alike.get(text) ?? 0) + 1);
    }
  }

  /**
   * What an ad group's ads do on a query; they take turns, so it is their mean.
   * @param row its number, its title, of which the channel makes an ad where there is none, and the price as it is paid, mills
   */
  effect(ads: readonly Ad[], row: { no: number; title: string; price: number }, query: string): AdEffect {
    const read = ads.length > 0 ? ads.map((ad) => this.read(ad)) : [this.readTitle(row.no, row.title)];
    let wanted = this.wanted.get(query);
    if (!wanted) this.wanted.set(query, (wanted = comparedWords(query).map(stem)));
    let [clicks, orders] = [0, 0];
    for (const ad of read) {
      const one = this.effectOf(ad, wanted, row.price);
      clicks += one.clicks / read.length;
      orders += one.orders / read.length;
    }
    return { clicks, orders };
  }

  private effectOf(ad: ReadAd, wanted: readonly string[], price: number): AdEffect {
    const { nature } = this;
    const share = wanted.length === 0 ? 0 : wanted.filter((word) => ad.stems.has(word)).length / wanted.length;
    const clicks =
      nature.wordPull * (share - 0.7) +
      nature.linePull * (ad.fullness - 1) +
      (ad.isCut ? -nature.cutHurt : 0) +
      (ad.saysOff ? nature.offPull : 0) -
      nature.samePull * Math.log10(ad.alike);
    const isPriceTold = ad.amounts.some((amount) => Math.abs(amount - price) < 10);
    const isFrom = ad.saysFrom && ad.amounts.every((amount) => amount <= price + 10);
    const isPriceWrong = ad.amounts.length > 0 && !ad.saysOff && !isPriceTold && !isFrom;
    const orders =
      (isPriceTold ? nature.pricePull : 0) +
      (isPriceWrong ? WRONG_PRICE : 0) +
      (ad.left <= FEW_LEFT ? nature.hurry : ad.left >= MANY_LEFT ? -nature.hurry : 0);
    return { clicks: bounded(Math.exp(clicks)), orders: bounded(Math.exp(orders)) };
  }

  private read(ad: Ad): ReadAd {
    let found = this.known.get(ad.key);
    if (found) return found;
    const text = [...ad.headlines, ...ad.descriptions, ad.address ?? ""].join(" ");
    const share = (list: "headlines" | "descriptions") => Math.min(1, ad[list].length / PLENTY[list]);
    const left = LEFT.exec(text);
    found = {
      stems: new Set(comparedWords(text).map(stem)),
      fullness: (share("headlines") + share("descriptions")) / 2,
      isCut: [...ad.headlines, ...ad.descriptions].some((line) => /…$|\.\.\.$/.test(line)),
      amounts: mills(text),
      saysFrom: FROM.test(text),
      saysOff: OFF.test(text),
      left: left ? Number(left[1] ?? left[2]) : NaN,
      alike: this.alike.get(ad.headlines.join("\n")) ?? 1,
    };
    this.known.set(ad.key, found);
    return found;
  }

  /** The ad that the channel makes of a title: one headline, cut where it is too long. */
  private readTitle(no: number, title: string): ReadAd {
    const key = `row ${no}`;
    let found = this.known.get(key);
    if (found) return found;
    const { length } = CHANNEL_LIMITS.textAd.headlines;
    const headline = shorten(title, length);
    found = {
      stems: new Set(comparedWords(headline).map(stem)),
      fullness: 1 / (2 * PLENTY.headlines),
      isCut: headline !== title,
      amounts: mills(headline),
      saysFrom: false,
      saysOff: false,
      left: NaN,
      alike: 1,
    };
    this.known.set(key, found);
    return found;
  }
}

function mills(text: string): number[] {
  return amountsIn(text).flatMap((amount) => {
    const parsed = parseMoneyBy(amount, ".");
    return parsed.ok ? [parsed.mills] : [];
  });
}

function bounded(factor: number): number {
  return Math.max(AD_EFFECT_RANGE.least, Math.min(AD_EFFECT_RANGE.most, factor));
}

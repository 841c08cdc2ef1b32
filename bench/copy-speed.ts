import { cellText } from "@/core/kit/columns";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { makeKeywords } from "@/core/copy/keywords";
import { usualPlan } from "@/core/copy/usual-plan";
import { CopyValues } from "@/core/copy/values";
import { CopyWriter, writePlan } from "@/core/copy/write-plan";
import { compileDesign, writeAd } from "@/core/copy/write-ad";
import { lightShop } from "@/core/market/seen-world";
import { singleItems } from "@/core/copy/testing";
import { field } from "@/core/parts/part";
import { figure, timed, type Figure } from "./measure";

const ITEMS = 100_000;

/** Ads and keywords of a catalogue, an ad group an item: lines that were tried, proved, and keywords made. */
export async function benchCopy(): Promise<Figure[]> {
  const shop = lightShop(ITEMS, "copy");
  const units = singleItems(ITEMS);
  const usual = usualPlan({
    ...{ key: "bench", name: "Bench", language: "en", has: (name) => name in shop.columns || name === "stock" },
    ...{ totalBudget: 1_000_000, startingBid: 200, goal: null },
  });
  const [ad] = usual.ads;
  // A 15-line ad: the usual lines, and others that say a field each.
  const more = ["title", "brand", "copy:kind", "copy:price", "copy:share-off"].map((name) => ({
    ...{ list: "headlines" as const, rungs: [[field(name)]], runsOn: false, cut: false, always: false },
  }));
  const lines = [...ad!.lines, ...more].slice(0, 15);
  const plan = { ...usual, ads: [{ ...ad!, lines }], keywords: { ...usual.keywords, apart: false, most: 5 } };
  const settings = { currency: "EUR", language: "en" as const, wideCountTwice: CHANNEL_LIMITS.wideCountTwice };
  const fresh = () => new CopyValues(units, shop, settings);
  const { title, brand } = shop.columns;
  const floor = await timed(3, () => {
    let said = 0;
    for (let line = 0; line < lines.length; line++)
      for (let row = 0; row < ITEMS; row++) said += `${cellText(brand!, row)} ${cellText(title!, row)}`.length;
    return said;
  });
  const ms = await timed(3, () => {
    const design = compileDesign(plan.ads[0]!, fresh());
    let written = 0;
    for (let unit = 0; unit < ITEMS; unit++) written += writeAd(design, unit).lines.length;
    return written;
  });
  const proof = await timed(3, () => {
    const values = fresh();
    const writer = new CopyWriter(plan, units, values, [null], new Set());
    return writePlan(plan, writer);
  });
  let made = 0;
  const keywords = await timed(3, () => {
    const all = makeKeywords(plan.keywords, units, fresh(), shop, {
      ...{ language: "en", searches: () => null, claim: new Float64Array(ITEMS) },
    });
    made = Object.values(all.dropped).reduce((sum, count) => sum + count, 0);
    for (const list of all.keywords) made += list.length;
  });
  const tried = lines.length * ITEMS;
  const rate = (count: number, time: number) => `${Math.round(count / time).toLocaleString("en")} a ms`;
  const joined = `${lines.length} texts an item put together`;
  return [
    figure(`write ads of ${lines.length} lines`, "100k", ms, joined, floor, "1,000 lines a ms", rate(tried, ms)),
    figure("write and prove them", "100k", proof, joined, floor, "5 s", rate(tried, proof)),
    figure("make keywords", "100k", keywords, joined, floor, "1,000 a ms", `${made} tried, ${rate(made, keywords)}`),
  ];
}

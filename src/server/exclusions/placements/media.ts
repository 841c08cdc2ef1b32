import { plainAddress } from "@/core/exclusions/placements/address";
import type { MediaDay } from "@/core/exclusions/placements/worth";
import { windowEnding, type Window } from "@/core/kit/days";
import { addSums, noSums, type AdMeasure, type Sums } from "@/core/kit/metrics";
import { mills } from "@/core/kit/money";
import { SLOT_KEYS } from "@/core/kit/slots";
import { addLine, type Cube } from "@/core/results/cube";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../../catalogue/load";
import { remember } from "../../read/memo";
import { loadCube } from "../../results/cubes";
import { loadCodes, loadWindow, resultDays, resultsVersion } from "../../results/load";
import { missingMeasures } from "../../results/reported";
import type { WorkspaceInfo } from "../../workspaces";

/** Days of results that placements are looked at by. */
export const MEDIA_DAYS = 90;
const PARTNER_MEDIA = SLOT_KEYS.indexOf("partner-media");

/** A placement as reports tell it, all campaigns and spellings of its address together. */
export interface ReportedPlacement {
  address: string;
  /** Codes of the texts that reports call it by. */
  codes: number[];
  sums: Sums;
  /** Impressions by key of campaign. */
  campaigns: Map<string, number>;
}

/** Partner media of a window: by placement, by campaign, and day by day. */
export interface Media {
  window: Window;
  days: number;
  placements: ReportedPlacement[];
  /** What the placement report does not tell. */
  missing: AdMeasure[];
  /** Results of the partner slot by key of campaign; of all slots too. */
  campaigns: Map<string, { media: Sums; all: Sums }>;
  mediaDays: MediaDay[];
  /** What is left of ad sales after costs, as a share. */
  margin: number;
}

/** What results tell of partner media; null where there are no results by placement. Kept until results change. */
export async function loadMedia(db: Database, info: Pick<WorkspaceInfo, "goal">): Promise<Media | null> {
  const { revision } = await loadCatalogue(db, []);
  return remember(db, "partner media", [await resultsVersion(db), revision, info.goal], () => readMedia(db, info.goal));
}

async function readMedia(db: Database, goal: number): Promise<Media | null> {
  const span = await resultDays(db);
  if (!span) return null;
  const window = windowEnding(span.to, MEDIA_DAYS);
  const whole = await loadCube(db, "placement", window, false);
  if (whole.ads.length === 0) return null;
  const { texts } = await loadCodes(db);
  const { placements, placeOf } = byAddress(whole.ads, texts);
  const slots = await loadCube(db, "slot", window, false);
  const campaigns: Media["campaigns"] = new Map();
  const { campaign, slot } = slots.ads.dimensions;
  for (let line = 0; line < slots.ads.length; line++) {
    const key = texts.get(campaign![line]!) ?? "";
    const sums = campaigns.get(key) ?? { media: noSums(), all: noSums() };
    campaigns.set(key, sums);
    addLine(sums.all, slots.ads, line, false);
    if (slot![line] === PARTNER_MEDIA) addLine(sums.media, slots.ads, line, false);
  }
  const byDay = await loadCube(db, "placement", window, true);
  const slotDays = await loadCube(db, "slot", window, true);
  const margin = await usualMargin(db, goal, window);
  return {
    ...{ window, days: span.to - Math.max(window.from, span.from) + 1, placements, campaigns },
    missing: await missingMeasures(db, "placement", window, whole.ads),
    mediaDays: mediaDays(byDay.ads, slotDays.ads, placeOf, margin),
    margin,
  };
}

/** Lines of a placement report by plain address, the largest first. */
function byAddress(ads: Cube, texts: ReadonlyMap<number, string>) {
  const places = new Map<string, ReportedPlacement>();
  const ofCode = new Map<number, ReportedPlacement>();
  const { placement, campaign } = ads.dimensions;
  for (let line = 0; line < ads.length; line++) {
    const code = placement![line]!;
    let found = ofCode.get(code);
    if (!found) {
      const address = plainAddress(texts.get(code) ?? "");
      found = places.get(address) ?? { address, codes: [], sums: noSums(), campaigns: new Map() };
      found.codes.push(code);
      places.set(address, found);
      ofCode.set(code, found);
    }
    addLine(found.sums, ads, line, false);
    const key = texts.get(campaign![line]!) ?? "";
    found.campaigns.set(key, (found.campaigns.get(key) ?? 0) + ads.sums.impressions[line]!);
  }
  const placements = [...places.values()].sort(
    (a, b) => b.sums.impressions - a.sums.impressions || (a.address < b.address ? -1 : 1),
  );
  const at = new Map(placements.map((place, i) => [place, i]));
  return { placements, placeOf: new Map([...ofCode].map(([code, place]) => [code, at.get(place)!])) };
}

/** Campaigns' days in partner media, with what they brought as a whole and who showed how much. */
function mediaDays(ads: Cube, slots: Cube, placeOf: ReadonlyMap<number, number>, margin: number): MediaDay[] {
  const keyOf = (cube: Cube, line: number) =>
    cube.dimensions.day![line]! * 4_294_967_296 + cube.dimensions.campaign![line]!;
  const brought = new Map<number, { clicks: number; cost: number; revenue: number }>();
  for (let line = 0; line < slots.length; line++) {
    if (slots.dimensions.slot![line] !== PARTNER_MEDIA) continue;
    const key = keyOf(slots, line);
    const sums = brought.get(key) ?? { clicks: 0, cost: 0, revenue: 0 };
    brought.set(key, sums);
    sums.clicks += slots.sums.clicks[line]!;
    sums.cost += slots.sums.cost[line]!;
    // Late orders are completed, so that the last days do not look worse than they are.
    sums.revenue += slots.expected.revenue[line]!;
  }
  const shown = new Map<number, { placement: number[]; impressions: number[] }>();
  for (let line = 0; line < ads.length; line++) {
    const key = keyOf(ads, line);
    // Where the slot report says nothing of a campaign's day, its impressions say nothing of what they brought.
    if (!brought.has(key)) continue;
    const one = shown.get(key) ?? { placement: [], impressions: [] };
    shown.set(key, one);
    one.placement.push(placeOf.get(ads.dimensions.placement![line]!)!);
    one.impressions.push(ads.sums.impressions[line]!);
  }
  return [...shown].map(([key, { placement, impressions }]) => {
    const { clicks, cost, revenue } = brought.get(key)!;
    return {
      ...{ clicks, cost, net: margin * revenue - cost },
      ...{ placement: Uint32Array.from(placement), impressions: Float64Array.from(impressions) },
    };
  });
}

/** What is left of ad sales after costs, as a share: by the items that sold; where costs are not known, 1 ÷ the goal. */
async function usualMargin(db: Database, goal: number, window: Window): Promise<number> {
  const { rows } = await loadWindow(db, window);
  const { columns } = await loadCatalogue(db, ["margin"]);
  const margins = columns["margin"]?.kind === "number" ? columns["margin"].values : null;
  let [left, sales] = [0, 0];
  for (let row = 0; row < rows.revenue.length; row++) {
    const margin = margins?.[row] ?? NaN;
    left += rows.revenue[row]! * (Number.isNaN(margin) ? 1 / goal : margin);
    sales += rows.revenue[row]!;
  }
  return sales > 0 ? left / sales : 1 / goal;
}

/** The sums of several. */
export function summed(all: Iterable<Sums>): Sums {
  const sums = { ...noSums(), cost: mills(0), revenue: mills(0) };
  for (const one of all) addSums(sums, one);
  return sums;
}

import { z } from "zod";
import type { Account } from "@/core/account/account";
import type { Campaign } from "@/core/account/records/campaign";
import { readAddress } from "@/core/exclusions/placements/address";
import { placementKind, type PlacementKind } from "@/core/exclusions/placements/kind";
import { hasGrown, isToJudge, type PlacementJudgement } from "@/core/exclusions/placements/review";
import { PROPOSED, TRIAGE, triage, type Triage } from "@/core/exclusions/placements/triage";
import {
  catalogueWords,
  placementWords,
  scriptOf,
  topicWords,
  unsafeFinder,
  type CatalogueWords,
  type Script,
} from "@/core/exclusions/placements/words";
import {
  countedWorth,
  placementWorths,
  type Estimate,
  type KindWorth,
  type Worths,
} from "@/core/exclusions/placements/worth";
import { asText } from "@/core/kit/columns";
import { dayAt, formatDay } from "@/core/kit/days";
import type { AdMeasure, Sums } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { readAccount } from "../../account/state";
import { loadCatalogue } from "../../catalogue/load";
import { remember } from "../../read/memo";
import { rememberReady } from "../../read/ready";
import { resultsVersion } from "../../results/load";
import { traitValues } from "../../results/traits";
import type { WorkspaceInfo } from "../../workspaces";
import { keptOutAddresses, nextLook } from "./due";
import { loadMedia, summed, type Media } from "./media";
import { readReviews, safetyWords, type PlacementReview } from "./reviews";

/** What placements can be narrowed down to: a group of the triage, or how they stand. */
export const PLACEMENT_LISTS = ["new", "all", "kept out", "judged", ...Object.keys(TRIAGE)] as unknown as readonly [
  "new",
  "all",
  "kept out",
  "judged",
  ...Triage[],
];
export type PlacementList = (typeof PLACEMENT_LISTS)[number];

export const placementsSchema = z.object({
  show: z.enum(PLACEMENT_LISTS).default("new"),
  q: z.string().max(200).default(""),
  kind: z.string().max(40).default(""),
  limit: z.coerce.number().int().min(1).max(20_000).default(2_000),
});

/** A placement, all reports and campaigns together. Money in mills; what no report tells is null. */
export interface PlacementLine {
  address: string;
  /** The address as people read it, and the name that the report shows. */
  shown: string;
  name: string;
  kind: PlacementKind;
  /** Whether a report told the kind; else it is what the address looks like. */
  isKindTold: boolean;
  impressions: number;
  clicks: number | null;
  cost: number | null;
  orders: number | null;
  revenue: number | null;
  /** Names of campaigns that were shown there, the one with most first. */
  campaigns: string[];
  /** Their keys, in the same order. */
  campaignKeys: string[];
  triage: Triage;
  proposed: (typeof PROPOSED)[Triage];
  /** Words that the catalogue is about, and that are not fit. */
  topic: string[];
  unsafe: string[];
  script: Script | null;
  /** What a thousand impressions bring less what they cost, and clicks of a thousand; null where nothing can be told. */
  net: Estimate | null;
  clicked: Estimate | null;
  chanceOfLoss: number | null;
  /** Whether anything of its own is known beside its kind, of what it brings and of its clicks. */
  isOwn: boolean;
  areClicksOwn: boolean;
  keptOut: "everywhere" | "in part" | null;
  review: { judgement: PlacementJudgement; note: string; who: string; on: string } | null;
  /** Whether it has grown so much since that it is to be judged again. */
  hasGrown: boolean;
}

/** Partner media of one campaign beside all that it does. */
export interface MediaCampaign {
  key: string;
  name: string;
  /** Whether it can be switched off in partner media, and what its bids are multiplied by there. */
  kind: Campaign["kind"] | null;
  factor: number | null;
  media: Sums;
  all: Sums;
  /** Impressions in partner media that are listed by placement. */
  listed: number;
}

export interface PlacementsView {
  version: number;
  days: number;
  from: string;
  to: string;
  missing: AdMeasure[];
  counts: Record<PlacementList, number>;
  kinds: Partial<Record<PlacementKind, number>>;
  lines: PlacementLine[];
  total: number;
  /** Impressions of all placements, and of what is listed. */
  impressions: { all: number; found: number };
  campaigns: MediaCampaign[];
  /** Partner media as a whole, and all slots. */
  media: Sums;
  account: Sums;
  lastReview: string | null;
  reviewOn: string | null;
  isDue: boolean;
  /** What kinds are worth, on the catalogue's topic and off it, those with most impressions first; null where nothing can be told. */
  worths: (KindWorth & { placements: number; impressions: number })[] | null;
}

/** Everything known of placements, and what they are sorted into, before anybody's search. */
interface Sorted {
  media: Omit<Media, "mediaDays">;
  lines: Omit<PlacementLine, "keptOut" | "review" | "hasGrown">[];
  kinds: KindWorth[] | null;
}

/** Placements sorted by what they are worth and fit for, with what was judged before and what is kept out. */
export async function viewPlacements(
  db: Database,
  info: WorkspaceInfo,
  asked: z.output<typeof placementsSchema>,
): Promise<PlacementsView | null> {
  const { planned, version } = await readAccount(db);
  const sorted = await sortedPlacements(db, info, planned);
  if (!sorted) return null;
  const { media } = sorted;
  const reviews = new Map((await readReviews(db)).map((review) => [review.address, review]));
  const out = keptOutAddresses(planned);
  const lines = sorted.lines.map((line): PlacementLine => {
    const review = reviews.get(line.address);
    return {
      ...line,
      keptOut: out.get(line.address) ?? null,
      review: review ? toldReview(review, info.timeZone) : null,
      hasGrown: review !== undefined && hasGrown(review.impressionsADay, line.impressions / media.days),
    };
  });
  const isIn = (line: PlacementLine, list: PlacementList) => {
    if (list === "all") return true;
    if (list === "kept out") return line.keptOut !== null;
    if (list === "judged") return line.review !== null;
    const isOpen = isToJudge(
      reviews.get(line.address)?.impressionsADay ?? null,
      line.impressions / media.days,
      line.keptOut,
    );
    return list === "new" ? isOpen : isOpen && line.triage === list;
  };
  const words = asked.q.toLowerCase().split(/\s+/).filter(Boolean);
  const found = lines.filter(
    (line) =>
      isIn(line, asked.show) &&
      (asked.kind === "" || line.kind === asked.kind) &&
      words.every((word) => `${line.shown} ${line.name} ${line.campaigns.join(" ")}`.toLowerCase().includes(word)),
  );
  const impressions = (of: readonly PlacementLine[]) => of.reduce((sum, one) => sum + one.impressions, 0);
  const look = nextLook(
    [...reviews.values()],
    impressions(lines.filter((line) => isIn(line, "new"))),
    impressions(lines),
    info.timeZone,
  );
  const kinds: PlacementsView["kinds"] = {};
  for (const { kind } of lines) kinds[kind] = (kinds[kind] ?? 0) + 1;
  const campaigns = mediaCampaigns(media, planned);
  return {
    ...{ version, days: media.days, from: formatDay(media.window.from), to: formatDay(media.window.to) },
    missing: media.missing,
    counts: Object.fromEntries(
      PLACEMENT_LISTS.map((list) => [list, lines.filter((line) => isIn(line, list)).length]),
    ) as PlacementsView["counts"],
    ...{ kinds, lines: found.slice(0, asked.limit), total: found.length, worths: kindLines(sorted) },
    impressions: { all: impressions(lines), found: impressions(found) },
    campaigns,
    media: summed(campaigns.map((one) => one.media)),
    account: summed([...media.campaigns.values()].map((one) => one.all)),
    lastReview: look.last === null ? null : formatDay(look.last),
    reviewOn: look.next === null ? null : formatDay(look.next),
    isDue: look.isDue,
  };
}

/** Kinds with how many placements and impressions they are of. */
function kindLines({ kinds, lines }: Sorted): PlacementsView["worths"] {
  const counted = kinds?.map((one) => {
    const own = lines.filter(({ kind, topic }) => kind === one.kind && topic.length > 0 === one.isOnTopic);
    return { ...one, placements: own.length, impressions: own.reduce((sum, { impressions }) => sum + impressions, 0) };
  });
  return counted?.sort((a, b) => b.impressions - a.impressions) ?? null;
}

function toldReview({ judgement, note, who, at }: PlacementReview, timeZone: string): PlacementLine["review"] {
  return { judgement, note, who, on: formatDay(dayAt(at, timeZone)) };
}

async function sortedPlacements(db: Database, info: WorkspaceInfo, account: Account): Promise<Sorted | null> {
  const { words: unsafe, stamp } = await safetyWords(db);
  const { revision } = await loadCatalogue(db, []);
  const names = account.all("campaign").map(({ key, name }) => `${key} ${name}`);
  return rememberReady(
    db,
    "placements",
    [await resultsVersion(db), revision, stamp, info.goal, names.join("\n")],
    async () => sortPlacements(db, info, account, unsafe),
    1,
  );
}

async function sortPlacements(
  db: Database,
  info: WorkspaceInfo,
  account: Account,
  unsafe: readonly string[],
): Promise<Sorted | null> {
  const media = await loadMedia(db, info);
  if (!media) return null;
  const [shownNames, kinds] = [await traitValues(db, "name"), await traitValues(db, "placementKind")];
  const about = await wordsOfCatalogue(db);
  const told = (values: ReadonlyMap<number, string>, codes: readonly number[]) =>
    codes.map((code) => values.get(code)).find((value) => value !== undefined) ?? "";
  const shops = await shopHosts(db);
  const findUnsafe = unsafeFinder(unsafe);
  const facts = media.placements.map(({ address, codes, sums, campaigns }) => {
    const name = told(shownNames, codes);
    const shown = readAddress(address)?.shown ?? address;
    const words = placementWords(shown, name);
    const { kind, isTold } = placementKind(address, told(kinds, codes));
    return {
      ...{ address, shown, name, kind, isKindTold: isTold, campaigns, sums },
      topic: topicWords(words, about.words),
      unsafe: findUnsafe(words),
      script: scriptOf(`${shown.split("/")[0]!.replace(/\.[^.]*$/, "")} ${name}`),
      isOwnShop: shops.has(address.split("/")[0]!),
    };
  });
  const worths = worthsOf(media, facts);
  const all = summed(facts.map(({ sums }) => sums));
  const partners = summed([...media.campaigns.values()].map((one) => one.media));
  const counted = (measure: AdMeasure, value: number) => (media.missing.includes(measure) ? null : value);
  // Clicks of a thousand impressions of partner media as a whole, by the report that tells clicks.
  const clicks = media.missing.includes("clicks") ? partners : all;
  const usual = clicks.impressions > 0 ? (1000 * clicks.clicks) / clicks.impressions : null;
  const nameOf = (key: string) => account.find("campaign", key)?.name ?? key;
  // Single days are worked out of and not looked at again; there are too many of them to be kept.
  const { mediaDays: _, ...kept } = media;
  return {
    media: kept,
    kinds: worths?.kinds ?? null,
    lines: facts.map(({ campaigns, sums, isOwnShop, ...fact }, p) => {
      const worth = worths?.placements[p] ?? null;
      const sortedInto = triage(
        {
          ...{ kind: fact.kind, topic: fact.topic, unsafe: fact.unsafe, script: fact.script, isOwnShop, worth },
          ...{ impressions: sums.impressions, clicks: counted("clicks", sums.clicks) },
        },
        { all: all.impressions, usual, scripts: about.scripts },
      );
      return {
        ...fact,
        impressions: sums.impressions,
        clicks: counted("clicks", sums.clicks),
        cost: counted("cost", sums.cost),
        orders: counted("orders", sums.orders),
        revenue: counted("revenue", sums.revenue),
        campaigns: byViews(campaigns).map(nameOf),
        campaignKeys: byViews(campaigns),
        ...{ triage: sortedInto, proposed: PROPOSED[sortedInto] },
        ...{ net: worth?.net ?? null, clicked: worth?.clicks ?? null, chanceOfLoss: worth?.chanceOfLoss ?? null },
        ...{ isOwn: worth?.isOwn ?? false, areClicksOwn: worth?.areClicksOwn ?? false },
      };
    }),
  };
}

/** Worth by what was counted where reports tell it, else by the days that had more or less of each. */
function worthsOf(
  media: Media,
  facts: readonly { kind: string; topic: readonly string[]; sums: Sums }[],
): Worths | null {
  const isCounted = (["clicks", "cost", "orders", "revenue"] as const).every((key) => !media.missing.includes(key));
  if (!isCounted)
    return placementWorths(
      media.mediaDays,
      facts.map(({ kind, topic }) => ({ kind, isOnTopic: topic.length > 0 })),
    );
  const all = summed(facts.map(({ sums }) => sums));
  if (all.clicks === 0 || all.orders === 0) return null;
  const [rate, value] = [all.orders / all.clicks, (media.margin * all.revenue) / all.orders];
  const groups = new Map<string, { kind: string; isOnTopic: boolean; sums: Sums[] }>();
  for (const { kind, topic, sums } of facts) {
    const isOnTopic = topic.length > 0;
    const group = groups.get(`${kind}/${isOnTopic}`) ?? { kind, isOnTopic, sums: [] };
    groups.set(`${kind}/${isOnTopic}`, group);
    group.sums.push(sums);
  }
  return {
    placements: facts.map(({ sums }) => countedWorth(sums, rate, value)),
    kinds: [...groups.values()].map(({ kind, isOnTopic, sums }) => ({
      ...{ kind, isOnTopic },
      ...countedWorth(summed(sums), rate, value),
    })),
  };
}

/** What the catalogue is about, and the scripts that its titles are written in. */
async function wordsOfCatalogue(db: Database): Promise<{ words: CatalogueWords; scripts: ReadonlySet<Script> }> {
  const { columns, revision } = await loadCatalogue(db, ["title", "category"]);
  return remember(db, "catalogue words", [revision], async () => {
    const texts = (name: string) => {
      const column = columns[name];
      if (!column) return [];
      const { values, codes } = asText(column);
      return Array.from(codes, (code) => values[code]!);
    };
    const [titles, categories] = [texts("title"), [...new Set(texts("category"))]];
    const scripts = new Set(titles.flatMap((title) => scriptOf(title) ?? []));
    return { words: catalogueWords(categories, titles), scripts };
  });
}

/** Hosts that the catalogue's links lead to: the shop itself. */
async function shopHosts(db: Database): Promise<ReadonlySet<string>> {
  const { columns, revision } = await loadCatalogue(db, ["link"]);
  return remember(db, "shop hosts", [revision], async () => {
    const link = columns["link"];
    if (!link) return new Set<string>();
    return new Set(asText(link).values.flatMap((text) => readAddress(text)?.address.split("/")[0] ?? []));
  });
}

function mediaCampaigns(media: Sorted["media"], account: Account): MediaCampaign[] {
  const listed = new Map<string, number>();
  for (const { campaigns } of media.placements)
    for (const [key, impressions] of campaigns) listed.set(key, (listed.get(key) ?? 0) + impressions);
  return [...media.campaigns]
    .filter(([, { media: sums }]) => sums.impressions > 0)
    .map(([key, { media: sums, all }]): MediaCampaign => {
      const campaign = account.find("campaign", key);
      return {
        ...{ key, name: campaign?.name ?? key, kind: campaign?.kind ?? null },
        factor: campaign ? (campaign.slots?.["partner-media"] ?? 1) : null,
        ...{ media: sums, all, listed: listed.get(key) ?? 0 },
      };
    })
    .sort((a, b) => b.media.cost - a.media.cost || (a.key < b.key ? -1 : 1));
}

/** Keys of campaigns, the one with most impressions first. */
function byViews(campaigns: ReadonlyMap<string, number>): string[] {
  return [...campaigns].sort((a, b) => b[1] - a[1]).map(([key]) => key);
}

import { z } from "zod";
import { LINK_STATE_LABEL, LINK_STATES, type LinkState } from "@/core/catalogue/check-page";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { copyPlanSchema, type CopyPlan, type LineList } from "@/core/copy/copy-plan";
import { CAUSES, type Cause } from "@/core/copy/faults";
import { DROPPED, makeKeywords, widestMatch, type Dropped, type MadeKeywords } from "@/core/copy/keywords";
import { OUTCOMES } from "@/core/copy/line";
import { rowsOf } from "@/core/copy/units";
import {
  AD_STATES,
  writePlan,
  type AdState,
  type CopyWriter,
  type LineFigures,
  type WrittenPlan,
} from "@/core/copy/write-plan";
import { cellText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { placesVersion, rateBook } from "../channel/places";
import { csv, xlsx, type FileAnswer } from "../files/answers";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";
import {
  approvedTexts,
  checkedPages,
  copyGround,
  copyWriter,
  goneFields,
  pagesVersion,
  type CopyGround,
} from "./ground";
import { unitNames } from "./look";
import { keepApprovals } from "./plans";

/** How one line of a design stands over the ad groups it was tried for. */
export interface ProofLine extends Omit<LineFigures, "design" | "gaps"> {
  /** The design's key. */
  design: string;
  list: LineList;
  /** Fields that had nothing to say, with for how many ad groups, most first. */
  gaps: [field: string, adGroups: number][];
}

/** Texts held back for one cause. */
export interface ProofCause {
  cause: Cause;
  label: string;
  /** Different texts, and ad groups that have one. */
  texts: number;
  adGroups: number;
  /** The texts on most ad groups. */
  shown: { list: LineList; text: string; adGroups: number; unit: number }[];
}

export interface CopyProof {
  adGroups: number;
  items: number;
  /** Ad groups by how their ads stand, the best of them. */
  states: Record<AdState, number>;
  /** Ad groups that go out: with an ad that may, and a keyword that leads to it; and their items. */
  going: number;
  goingItems: number;
  /** Ad groups that do not, by why. */
  without: { why: string; adGroups: number }[];
  /** Lines that can go out in all ads. */
  lines: number;
  ofLines: ProofLine[];
  causes: ProofCause[];
  /** Texts that somebody let pass. */
  letPass: number;
  keywords: {
    made: number;
    /** Keywords with match types, as records. */
    records: number;
    adGroups: number;
    negatives: number;
    dropped: { why: string; count: number }[];
    /** How often all are searched for a month, as far as the channel tells. */
    searches: number | null;
  };
  /** Landing pages of the plan's items that were looked at, when last, and what was wrong with how many. */
  pages: { checked: number; at: number | null; faults: { label: string; items: number }[] };
  /** Fields in lines that the catalogue does not have any more. */
  gone: string[];
}

const MOST_SHOWN = 30;

export const copyProofSchema = z.object({ plan: copyPlanSchema });

/** A plan written for all its ad groups, with its keywords. */
export interface WholeCopy {
  ground: CopyGround;
  writer: CopyWriter;
  written: WrittenPlan;
  keywords: MadeKeywords;
}

/** Writes a plan whole; kept while plan, catalogue, results, places and what was let pass stay the same. */
export async function wholeCopy(db: Database, info: WorkspaceInfo, plan: CopyPlan): Promise<Outcome<WholeCopy>> {
  const made = await copyGround(db, info, plan);
  if (!made.ok) return made;
  const ground = made.value;
  const approved = await approvedTexts(db, plan.key);
  const stamp = [
    ground.stamp,
    JSON.stringify(plan),
    await placesVersion(db),
    await pagesVersion(db),
    approved.size,
    [...approved].sort().join("\0"),
  ];
  return remember(
    db,
    "whole copy",
    stamp,
    async () => {
      const writer = await copyWriter(db, plan, ground);
      const written = writePlan(plan, writer);
      return ok({ ground, writer, written, keywords: await keywordsFor(db, plan, ground) });
    },
    2,
  );
}

async function keywordsFor(db: Database, plan: CopyPlan, { units, values, catalogue, revenue }: CopyGround) {
  const book = await rateBook(db);
  const match = widestMatch(plan.keywords);
  const searches = (text: string) => {
    const isNone = book.hasNoQuery(text, match);
    if (isNone === null) return null;
    return isNone ? 0 : (book.keyword(text, match)?.monthlyViews ?? null);
  };
  const claim = new Float64Array(units.count);
  for (let unit = 0; unit < units.count; unit++) {
    const rows = rowsOf(units, unit);
    if (plan.keywords.keeper === "items") claim[unit] = rows.length;
    else if (plan.keywords.keeper === "sales") for (const row of rows) claim[unit]! += revenue?.[row] ?? 0;
  }
  return makeKeywords(plan.keywords, units, values, catalogue, { language: plan.language, searches, claim });
}

/** How the ad of an ad group stands that stands best. */
function bestState({ places, state }: WrittenPlan, unit: number): AdState {
  const own = places.map((_, p) => AD_STATES[state[unit * places.length + p]!]!);
  return (["whole", "shorter", "held"] as const).find((one) => own.includes(one)) ?? "none";
}

/** What a plan would write, in numbers, with what is held back and why. */
export async function proveCopy(db: Database, info: WorkspaceInfo, plan: CopyPlan): Promise<Outcome<CopyProof>> {
  const whole = await wholeCopy(db, info, plan);
  if (!whole.ok) return whole;
  const { ground, written, keywords } = whole.value;
  const { units, places } = written;
  const states: Record<AdState, number> = { none: 0, whole: 0, shorter: 0, held: 0 };
  const without = new Map<string, number>();
  let [going, goingItems] = [0, 0];
  for (let unit = 0; unit < units.count; unit++) {
    const best = bestState(written, unit);
    states[best]++;
    const hasAd = best === "whole" || best === "shorter";
    if (hasAd && keywords.keywords[unit]!.length > 0) {
      going++;
      goingItems += units.start[unit + 1]! - units.start[unit]!;
      continue;
    }
    const ofAds = best === "held" ? "held back by the proof" : (written.why[unit * places.length] ?? "no ad is for it");
    const why = hasAd ? "without a keyword of its own" : ofAds;
    without.set(why, (without.get(why) ?? 0) + 1);
  }
  const lines = written.lines.map(({ design, gaps, ...figures }): ProofLine => {
    const { key, lines: designed } = plan.ads[design]!;
    return { ...figures, design: key, list: designed[figures.at]!.list, gaps: [...gaps].sort((a, b) => b[1] - a[1]) };
  });
  const made = keywords.keywords.reduce((sum, list) => sum + list.length, 0);
  const told = keywords.keywords.flatMap((list) =>
    list.flatMap(({ searches }) => (searches === null ? [] : [searches])),
  );
  return ok({
    adGroups: units.count,
    items: units.rows.length,
    ...{ states, going, goingItems },
    without: [...without].map(([why, adGroups]) => ({ why, adGroups })).sort((a, b) => b.adGroups - a.adGroups),
    lines: written.sent.reduce((sum, count) => sum + count, 0),
    ofLines: lines,
    causes: causesOf(written),
    letPass: (await approvedTexts(db, plan.key)).size,
    keywords: {
      made,
      records: made * plan.keywords.matches.length,
      adGroups: keywords.keywords.filter((list) => list.length > 0).length,
      negatives: keywords.negatives.reduce((sum, list) => sum + list.length, 0),
      dropped: (Object.keys(DROPPED) as Dropped[]).flatMap((why) =>
        keywords.dropped[why] > 0 ? [{ why: DROPPED[why], count: keywords.dropped[why] }] : [],
      ),
      searches: told.length === 0 ? null : told.reduce((sum, count) => sum + count, 0),
    },
    pages: await pagesOf(db, ground),
    gone: await goneFields(db, plan),
  });

  function causesOf({ held }: WrittenPlan): ProofCause[] {
    return (Object.keys(CAUSES) as Cause[])
      .map((cause) => {
        const own = held.filter((one) => one.cause === cause);
        const adGroups = new Set(own.flatMap(({ units: of }) => of)).size;
        const shown = own
          .slice(0, MOST_SHOWN)
          .map(({ list, text, units: of }) => ({ list, text, adGroups: of.length, unit: of[0]! }));
        return { cause, label: CAUSES[cause], texts: own.length, adGroups, shown };
      })
      .filter(({ texts }) => texts > 0)
      .sort((a, b) => b.adGroups - a.adGroups);
  }
}

/** States of a landing page that ask for nobody. */
const QUIET: ReadonlySet<LinkState> = new Set(["fine", "unread"]);

async function pagesOf(db: Database, ground: CopyGround): Promise<CopyProof["pages"]> {
  const { found, at } = await checkedPages(db, ground);
  const counts = new Map<LinkState, number>();
  for (const { state } of found) counts.set(state, (counts.get(state) ?? 0) + 1);
  const faults = LINK_STATES.filter((state) => !QUIET.has(state) && counts.has(state));
  return {
    ...{ checked: found.length, at },
    faults: faults.map((state) => ({ label: LINK_STATE_LABEL[state], items: counts.get(state)! })),
  };
}

/** Which ad groups of a plan to list. */
export const copyGroupsSchema = z.object({
  plan: copyPlanSchema,
  of: z.discriminatedUnion("what", [
    z.object({ what: z.literal("all") }),
    z.object({ what: z.literal("state"), state: z.enum(AD_STATES) }),
    z.object({
      what: z.literal("cause"),
      cause: z.enum(Object.keys(CAUSES) as [Cause, ...Cause[]]),
      text: z.string().max(2000).optional(),
    }),
    z.object({
      what: z.literal("line"),
      design: z.string().max(20),
      at: z.int().min(0).max(100),
      /** A rung from 1 on, or what became of the line. */
      fate: z.union([z.int().min(1).max(8), z.enum(["ran on", "cut", "gap", "too long", "awkward"])]),
    }),
  ]),
  offset: z.int().min(0).default(0),
  limit: z.int().min(1).max(1000).default(100),
});

export interface CopyGroupLine {
  unit: number;
  name: string;
  id: string;
  title: string;
  items: number;
  /** The IDs of all its items. */
  ids: string[];
  state: AdState;
  /** The first headline and description that go out, or the text that is held back. */
  text: string;
  keywords: string[];
}

const FATE_CODE = {
  "ran on": OUTCOMES.ranOn,
  cut: OUTCOMES.cut,
  gap: OUTCOMES.gap,
  "too long": OUTCOMES.long,
  awkward: OUTCOMES.awkward,
};

/** The ad groups behind a number of the proof. */
export async function copyGroups(
  db: Database,
  info: WorkspaceInfo,
  { plan, of, offset, limit }: z.output<typeof copyGroupsSchema>,
): Promise<Outcome<{ total: number; groups: CopyGroupLine[] }>> {
  const whole = await wholeCopy(db, info, plan);
  if (!whole.ok) return whole;
  const { ground, written, writer, keywords } = whole.value;
  const { units, lineStart, outcomes } = written;
  const width = written.lines.length;
  let found: number[];
  if (of.what === "cause") {
    const held = written.held.filter(
      ({ cause, text }) => cause === of.cause && (of.text === undefined || text === of.text),
    );
    found = [...new Set(held.flatMap(({ units: own }) => own))].sort((a, b) => a - b);
  } else {
    const design = of.what === "line" ? plan.ads.findIndex(({ key }) => key === of.design) : -1;
    if (of.what === "line" && (design < 0 || of.at >= plan.ads[design]!.lines.length))
      return fail("copy-line-unknown", "That line is not in the plan.", "Look at the proof again.");
    const code = of.what !== "line" ? -1 : typeof of.fate === "number" ? of.fate - 1 : FATE_CODE[of.fate];
    const isIt = (unit: number) => {
      if (of.what === "all") return true;
      if (of.what === "line") return outcomes[unit * width + lineStart[design]! + of.at] === code;
      return bestState(written, unit) === of.state;
    };
    found = Array.from({ length: units.count }, (_, unit) => unit).filter(isIt);
  }
  const names = await unitNames(db, plan, ground);
  const { columns } = await loadCatalogue(db, ["id", "title"]);
  const groups = found.slice(offset, offset + limit).map((unit): CopyGroupLine => {
    const rows = rowsOf(units, unit);
    const row = rows.find((one) => units.sellable[one] === 1) ?? rows[0]!;
    const ads = written.places.map((place) => writer.adOf(unit, place));
    const ad = ads.find(({ lines }) => lines.length > 0) ?? ads[0]!;
    const text =
      ad.lines.length > 0
        ? ad.lines
            .map((line) => line.text)
            .slice(0, 2)
            .join(" · ")
        : (ad.held[0]?.text ?? ad.why ?? "");
    return {
      ...{ unit, name: names[unit] ?? "", items: rows.length, state: ad.state, text },
      ...{
        id: columns["id"] ? cellText(columns["id"], row) : "",
        title: columns["title"] ? cellText(columns["title"], row) : "",
      },
      ids: columns["id"] ? Array.from(rows, (one) => cellText(columns["id"]!, one)) : [],
      keywords: keywords.keywords[unit]!.map((keyword) => keyword.text),
    };
  });
  return ok({ total: found.length, groups });
}

export const letPassSchema = z.object({
  cause: z.enum(Object.keys(CAUSES) as [Cause, ...Cause[]]),
  /** Texts to let pass; left out: all that are held back for the cause, as many as were seen. */
  texts: z.array(z.string().min(1).max(3000)).min(1).max(10_000).optional(),
  /** How many texts were seen; more or fewer now is a reason to look again. */
  seen: z.int().min(0).optional(),
  /** False takes it back. */
  pass: z.boolean().default(true),
});

/** Lets texts of a plan pass that the proof holds back, or takes that back. @returns how many texts */
export async function letPass(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  plan: CopyPlan,
  { cause, texts, seen, pass }: z.output<typeof letPassSchema>,
): Promise<Outcome<{ texts: string[] }>> {
  const whole = await wholeCopy(db, info, plan);
  if (!whole.ok) return whole;
  const held = whole.value.written.held.filter((one) => one.cause === cause).map(({ text }) => text);
  const wanted = texts ?? [...new Set(held)];
  if (texts === undefined && seen !== undefined && seen !== wanted.length)
    return fail(
      "copy-changed",
      `${wanted.length} texts are held back for this now, not ${seen}.`,
      "Look at them again.",
    );
  const done = pass ? wanted.filter((text) => held.includes(text)) : wanted;
  await keepApprovals(
    db,
    who,
    plan.key,
    done.map((text) => ({ cause, text })),
    pass,
  );
  return ok({ texts: done });
}

/** All that a proof has to say, a row an ad group and warning, as a file. */
export async function warningsFile(
  db: Database,
  info: WorkspaceInfo,
  plan: CopyPlan,
  format: "csv" | "xlsx",
): Promise<Outcome<FileAnswer>> {
  const whole = await wholeCopy(db, info, plan);
  if (!whole.ok) return whole;
  const { ground, written } = whole.value;
  const { units, lineStart, outcomes, held } = written;
  const names = await unitNames(db, plan, ground);
  const { columns } = await loadCatalogue(db, ["id", "title"]);
  const who = (unit: number) => {
    const row = rowsOf(units, unit)[0]!;
    const cell = (field: string) => (columns[field] ? cellText(columns[field], row) : "");
    return [names[unit] ?? "", cell("id"), cell("title")];
  };
  const rows: (string | number)[][] = [];
  for (const { cause, list, text, units: own } of held)
    for (const unit of own) rows.push([...who(unit), "held back", CAUSES[cause], list, text]);
  const width = written.lines.length;
  plan.ads.forEach(({ name, lines }, design) => {
    lines.forEach(({ list }, at) => {
      for (let unit = 0; unit < units.count; unit++) {
        const outcome = outcomes[unit * width + lineStart[design]! + at]!;
        const why =
          outcome === OUTCOMES.gap
            ? "a field says nothing"
            : outcome === OUTCOMES.long
              ? `longer than ${CHANNEL_LIMITS.textAd[list].length} characters`
              : outcome === OUTCOMES.awkward
                ? "reads badly"
                : null;
        if (why !== null) rows.push([...who(unit), "line left out", why, list, `${name}, line ${at + 1}`]);
      }
    });
  });
  written.why.forEach((why, slot) => {
    if (why !== null) rows.push([...who(Math.floor(slot / written.places.length)), "no ad", why, "", ""]);
  });
  const headings = ["ad_group", "id", "title", "what", "why", "list", "text"];
  return ok(
    format === "csv"
      ? csv(`${plan.key}-warnings.csv`, headings, rows)
      : xlsx(`${plan.key}-warnings.xlsx`, headings, rows),
  );
}

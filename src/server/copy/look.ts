import { z } from "zod";
import { copyPlanSchema, fieldsOfPlan, type CopyPlan, type LineList } from "@/core/copy/copy-plan";
import { COPY_FIELDS } from "@/core/copy/values";
import { isWritten, OUTCOMES } from "@/core/copy/line";
import { rowsOf } from "@/core/copy/units";
import type { AdState, CopyWriter, HeldLine, WhyNone } from "@/core/copy/write-plan";
import { cellText } from "@/core/kit/columns";
import { ok, type Outcome } from "@/core/kit/outcome";
import { plannedCampaigns } from "@/core/planogram/planned-campaigns";
import { structureOf } from "@/core/copy/structure";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";
import { copyGround, copyWriter, goneFields, type CopyGround } from "./ground";

/** What became of a line, in a word. */
export type LineFate = "written" | "ran on" | "cut" | "gap" | "too long" | "awkward";

/** A line of a design as it is written for one ad group. */
export interface LookLine {
  list: LineList;
  at: number;
  fate: LineFate;
  /** The rung it stands on, from 1 on, or came nearest to; 0 where all leave a gap. */
  rung: number;
  texts: string[];
  /** Characters beyond the length. */
  over: number;
  gap: string | null;
  awkward: string | null;
}

export interface LookAd {
  place: number;
  design: string | null;
  state: AdState;
  why: WhyNone | null;
  lacks: LineList[];
  lines: LookLine[];
  /** The lines that go out, in order. */
  out: { list: LineList; text: string; always: boolean }[];
  held: HeldLine[];
}

/** An ad group with the ads that are written for it. */
export interface CopySample {
  unit: number;
  /** Why it is shown. */
  shown: "longest title" | "shortest title" | "least filled" | "found" | "another";
  name: string;
  items: number;
  id: string;
  title: string;
  image: string;
  ads: LookAd[];
}

export const copyLookSchema = z.object({
  plan: copyPlanSchema,
  /** Part of an ID or title; ad groups of such items are shown. */
  find: z.string().max(200).default(""),
  /** Ad groups to show, by number; left out: the longest, shortest and emptiest, and some others. */
  units: z.array(z.int().min(0)).max(50).optional(),
});

export interface CopyLook {
  adGroups: number;
  samples: CopySample[];
  /** Fields in lines that the catalogue does not have any more. */
  gone: string[];
}

/** Samples beside the longest, shortest and emptiest. */
const OTHERS = 5;
const MOST_FOUND = 20;

export function fateOf(outcome: number): LineFate {
  if (outcome === OUTCOMES.ranOn) return "ran on";
  if (outcome === OUTCOMES.cut) return "cut";
  if (outcome === OUTCOMES.gap) return "gap";
  if (outcome === OUTCOMES.long) return "too long";
  return outcome === OUTCOMES.awkward ? "awkward" : "written";
}

/** How a plan's ads read on some ad groups, the longest, the shortest and the emptiest among them. */
export async function lookAtCopy(
  db: Database,
  info: WorkspaceInfo,
  { plan, find, units }: z.output<typeof copyLookSchema>,
): Promise<Outcome<CopyLook>> {
  const made = await copyGround(db, info, plan);
  if (!made.ok) return made;
  const ground = made.value;
  const writer = await copyWriter(db, plan, ground);
  const chosen = units
    ? units.filter((unit) => unit < ground.units.count).map((unit) => ({ unit, shown: "another" as const }))
    : find.trim() === ""
      ? await oddOnes(db, plan, ground)
      : await foundOnes(db, ground, find.trim());
  const names = await unitNames(db, plan, ground);
  const samples: CopySample[] = [];
  for (const { unit, shown } of chosen)
    samples.push(await sampleOf(db, plan, ground, writer, unit, shown, names[unit] ?? ""));
  return ok({ adGroups: ground.units.count, samples, gone: await goneFields(db, plan) });
}

/** What an ad group is called, by its place among the units. */
export async function unitNames(
  db: Database,
  plan: CopyPlan,
  { structure, units, stamp }: CopyGround,
): Promise<string[]> {
  const { adGroupName, campaignName, name } = plan;
  return remember(
    db,
    "copy names",
    [stamp, JSON.stringify([adGroupName, campaignName, name])],
    () => {
      const { campaigns } = plannedCampaigns(structureOf(plan), structure);
      const byNode = new Map(
        campaigns.flatMap(({ adGroups }) => adGroups.map(({ node, name: own }) => [node, own] as const)),
      );
      return Array.from(units.node, (node) => byNode.get(node) ?? "");
    },
    3,
  );
}

async function sampleOf(
  db: Database,
  plan: CopyPlan,
  { units }: CopyGround,
  writer: CopyWriter,
  unit: number,
  shown: CopySample["shown"],
  name: string,
): Promise<CopySample> {
  const rows = rowsOf(units, unit);
  const row = rows.find((one) => units.sellable[one] === 1) ?? rows[0]!;
  const { columns } = await loadCatalogue(db, ["id", "title", "image"]);
  const text = (field: string) => (columns[field] ? cellText(columns[field], row) : "");
  const ads = writer.places.map((place): LookAd => {
    const { design, state, why, lacks, lines, held, written } = writer.adOf(unit, place);
    return {
      ...{ place, state, why, lacks, held },
      design: design < 0 ? null : plan.ads[design]!.key,
      out: lines.map(({ list, text, always }) => ({ list, text, always })),
      lines: (written?.outcomes ?? []).map((one, at) => ({
        list: plan.ads[design]!.lines[at]!.list,
        ...{ at, fate: fateOf(one.outcome), rung: one.rung + 1, over: one.over, gap: one.gap, awkward: one.awkward },
        texts: isWritten(one.outcome) ? one.lines.map(({ text }) => text) : [],
      })),
    };
  });
  return { unit, shown, name, items: rows.length, id: text("id"), title: text("title"), image: text("image"), ads };
}

/** The ad groups with the longest and shortest titles and the fewest values among the fields that lines use, and some others. */
async function oddOnes(
  db: Database,
  plan: CopyPlan,
  ground: CopyGround,
): Promise<Pick<CopySample, "unit" | "shown">[]> {
  const { units, values, stamp } = ground;
  const fields = fieldsOfPlan(plan).filter((field) => field in COPY_FIELDS || ground.catalogue.columns[field]);
  const key = [stamp, JSON.stringify(fields.toSorted())];
  return remember(db, "odd ad groups", key, () => {
    const found = new Map<number, CopySample["shown"]>();
    let [longest, shortest, emptiest] = [-1, -1, -1];
    let [most, least, fewest] = [-1, Infinity, Infinity];
    for (let unit = 0; unit < units.count; unit++) {
      const length = values.valueOf(unit, "title").length;
      let filled = 0;
      for (const field of fields) if (values.valueOf(unit, field) !== "") filled++;
      if (length > most) [most, longest] = [length, unit];
      if (length > 0 && length < least) [least, shortest] = [length, unit];
      if (filled < fewest) [fewest, emptiest] = [filled, unit];
    }
    if (longest >= 0) found.set(longest, "longest title");
    if (shortest >= 0 && !found.has(shortest)) found.set(shortest, "shortest title");
    if (emptiest >= 0 && !found.has(emptiest)) found.set(emptiest, "least filled");
    for (let i = 0; i < OTHERS; i++) {
      const unit = Math.floor(((i + 0.5) * units.count) / OTHERS);
      if (unit < units.count && !found.has(unit)) found.set(unit, "another");
    }
    return [...found].map(([unit, shown]) => ({ unit, shown }));
  });
}

async function foundOnes(
  db: Database,
  { units }: CopyGround,
  find: string,
): Promise<Pick<CopySample, "unit" | "shown">[]> {
  const { columns } = await loadCatalogue(db, ["id", "title"]);
  const wanted = find.toLowerCase();
  const found: Pick<CopySample, "unit" | "shown">[] = [];
  for (let unit = 0; unit < units.count && found.length < MOST_FOUND; unit++) {
    const isIt = [...rowsOf(units, unit)].some((row) =>
      [columns["id"], columns["title"]].some(
        (column) => column && cellText(column, row).toLowerCase().includes(wanted),
      ),
    );
    if (isIt) found.push({ unit, shown: "found" });
  }
  return found;
}

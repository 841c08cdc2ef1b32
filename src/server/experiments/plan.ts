import { makeEdit, type Edit } from "@/core/account/acts";
import { checkDiff } from "@/core/account/checks";
import type { Account } from "@/core/account/account";
import type { Draft } from "@/core/account/draft";
import { actsOf, changeInWords, type Arm } from "@/core/experiments/changes";
import { definitionSchema, type Definition } from "@/core/experiments/definition";
import { daysToFind, leastFound } from "@/core/experiments/noise";
import { meansOf } from "@/core/experiments/series";
import { MEASURES, MEASURE_KEYS, type MeasureKey } from "@/core/experiments/measures";
import type { AccountRecord } from "@/core/account/records";
import { composeDiffs, diffSize, type Diff } from "@/core/kit/diff";
import { formatDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import type { Arms } from "@/db/schema/experiments";
import { z } from "zod";
import { itemFacts } from "../account/serving";
import { readAccount, type AccountAt } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { carriedBy } from "../channel/carried";
import { channelChoice } from "../channel/choice";
import { approvalOf } from "../account/approval";
import { clickWorths } from "../goals/click-worths";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { matchArms, type Matched } from "./arms";
import { runningOn } from "./running";
import { loadSeries, readSeries } from "./series";

/** What was seen is what is begun: the coins are named by their seed. */
export const planSchema = z.object({
  definition: definitionSchema,
  seed: z.string().min(1).max(40),
});

/** What one arm brought a day in the days before, by measure; null where a measure does not speak of it. */
export interface ArmBefore {
  units: number;
  items: number;
  brought: Record<MeasureKey, number | null>;
}

/** What an experiment would be. Amounts of its measure: mills, or a count. */
export interface ExperimentPlan {
  change: string;
  pairs: number;
  days: number;
  beforeDays: number;
  left: Matched["left"];
  /** Null for days. */
  arms: { with: ArmBefore; without: ArmBefore } | null;
  /** The smallest effect a day that is found four times of five in the days planned; null where none is. */
  leastFound: number | null;
  /** Days after which the least effect that matters is found; null where no number is enough. */
  daysToFind: number | null;
  /** What the arm with the change brings a day now, for comparison. */
  broughtADay: number;
  changes: number;
  /** Checks that would not hold, and all else that speaks against it. */
  warnings: string[];
}

/** An experiment that can be begun: its arms, and the change of the account that it comes to. */
export interface Ready {
  definition: Definition;
  matched: Matched;
  draft: Draft;
  plan: ExperimentPlan;
}

/** Says what an experiment would be, before anything is done. */
export async function planExperiment(
  db: Database,
  info: WorkspaceInfo,
  asked: z.output<typeof planSchema>,
): Promise<Outcome<ExperimentPlan>> {
  const ready = await readyExperiment(db, info, asked, await readAccount(db));
  return ready.ok ? ok(ready.value.plan) : ready;
}

/** Works an experiment out on an account. */
export async function readyExperiment(
  db: Database,
  info: WorkspaceInfo,
  { definition, seed }: z.output<typeof planSchema>,
  { planned: account, live, held }: Pick<AccountAt, "planned" | "live" | "held">,
): Promise<Outcome<Ready>> {
  const span = await resultDays(db);
  if (!span) return fail("experiment-young", "There are no results yet, and an experiment is planned by the past.");
  if (definition.design === "days") {
    const { kind } = await channelChoice(db);
    if (kind === "files") {
      return fail(
        "experiment-files",
        "Days are switched by themselves, which files can’t do.",
        "Set items or campaigns apart instead.",
      );
    }
    if ((await approvalOf(db)).isNeeded) {
      return fail(
        "experiment-approval",
        "Whatever is sent here is approved first, and days are switched by themselves at night.",
        "Set items or campaigns apart instead.",
      );
    }
  }
  const matched = await matchArms(db, definition, seed, account, span);
  if (!matched.ok) return matched;
  const taken = await runningOn(db, info, matched.value);
  if (taken) {
    return fail("experiment-overlap", `“${taken}” runs on some of the same.`, "End it first, or leave them out.");
  }
  const arm = await armOf(db, matched.value.arms, definition.campaigns, "with");
  const draft = await draftFor(db, info, account, definition, arm, span.to);
  if (!draft.ok) return draft;
  const changes = diffSize(draft.value.diff());
  if (changes === 0) {
    return fail("experiment-nothing", "That changes nothing: it is as it is set already.", "Choose another change.");
  }
  const { limits } = await carriedBy(db);
  const messages = (diff: Diff<AccountRecord>) =>
    checkDiff(live, diff, info.currency, limits).map(({ message }) => message);
  const before = new Set(messages(held));
  const checks = messages(composeDiffs(held, draft.value.diff())).filter((message) => !before.has(message));
  const plan = await planOf(db, definition, matched.value);
  const warnings = [...checks, ...plan.warnings];
  return ok({ definition, matched: matched.value, draft: draft.value, plan: { ...plan, changes, warnings } });
}

/** The change for an arm as a draft on an account. */
export async function draftFor(
  db: Database,
  info: WorkspaceInfo,
  account: Account,
  definition: Definition,
  arm: Arm,
  from: number,
): Promise<Outcome<Draft>> {
  const acts = actsOf(definition.change, arm, formatDay(from + definition.days), definition.name);
  const reason = `Experiment “${definition.name}”: ${changeInWords(definition.change)}`;
  const edit = { action: "several", acts: acts.map((act) => ({ act, reason: reason.slice(0, 300) })) } as Edit;
  return makeEdit(account, edit, await itemFacts(db, account, edit, clickWorths), info.currency);
}

/** Whom a change is for: IDs of items, or keys of campaigns. Of days all campaigns. */
export async function armOf(db: Database, arms: Arms, campaigns: string[], side: "with" | "without"): Promise<Arm> {
  if (arms.of === "days") return { items: [], campaigns };
  if (arms.of === "campaigns") return { items: [], campaigns: arms[side] };
  const { columns } = await loadCatalogue(db, ["id"]);
  const [numbers, ids] = [columns["itemNo"], columns["id"]];
  if (numbers?.kind !== "number" || ids?.kind !== "text") return { items: [], campaigns: [] };
  const wanted = new Set(arms[side].flat());
  const items: string[] = [];
  numbers.values.forEach((no, row) => {
    if (wanted.has(no)) items.push(ids.values[ids.codes[row]!]!);
  });
  return { items, campaigns: [] };
}

async function planOf(db: Database, definition: Definition, matched: Matched): Promise<ExperimentPlan> {
  const { measure, days, least, change, design } = definition;
  const { arms, noise, before } = matched;
  const length = before.to - before.from + 1;
  const sides = await armsBefore(db, matched);
  let broughtADay = sides?.with.brought[measure] ?? 0;
  if (arms.of === "days") {
    const series = await loadSeries(db, "all", { of: "all" }, measure, before);
    broughtADay = meansOf(series, 0, length)[0]!;
  }
  const needs = daysToFind(noise, least);
  const warnings: string[] = [];
  if (design === "items" && definition.together === "item") {
    warnings.push(
      "Items of a family or category share searches: what one loses the other arm gains, and the difference counts it twice. Larger units keep them together.",
    );
  }
  return {
    ...{
      change: changeInWords(change),
      pairs: matched.pairs,
      days,
      beforeDays: length,
      left: matched.left,
      arms: sides,
    },
    ...{ leastFound: leastFound(noise, days), daysToFind: needs, broughtADay, changes: 0, warnings },
  };
}

/** What both arms brought a day before, each as one unit, by every measure that is told of it. */
async function armsBefore(db: Database, { arms, before }: Matched): Promise<ExperimentPlan["arms"]> {
  if (arms.of === "days") return null;
  const told = MEASURE_KEYS.filter((measure) => arms.of === "items" || !MEASURES[measure].isOfStore);
  const units =
    arms.of === "items"
      ? { of: "items" as const, lists: [arms.with.flat(), arms.without.flat()] }
      : { of: "campaigns" as const, keys: [...arms.with, ...arms.without] };
  const series = await readSeries(db, units, told, before);
  const sideOf = (side: "with" | "without"): ArmBefore => {
    const brought = Object.fromEntries(MEASURE_KEYS.map((key) => [key, null])) as ArmBefore["brought"];
    told.forEach((measure, at) => {
      const means = meansOf(series[at]!, 0, series[at]!.days);
      // Of items each arm is one unit; of campaigns each of its campaigns.
      const half = means.length / 2;
      const own = side === "with" ? means.subarray(0, half) : means.subarray(half);
      brought[measure] = own.reduce((sum, value) => sum + value, 0);
    });
    return { units: arms[side].length, items: arms.of === "items" ? arms[side].flat().length : 0, brought };
  };
  return { with: sideOf("with"), without: sideOf("without") };
}

import { Draft } from "@/core/account/draft";
import { copyOrigin, type CopyPlan } from "@/core/copy/copy-plan";
import { keepOwnFigures } from "@/core/copy/copy-records";
import { sameValue } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { FailureError } from "@/core/kit/outcome";
import { replan } from "@/core/planogram/merge";
import type { JobContext, JobHandler } from "../jobs/work";
import { keepPlan, plansBefore } from "../planogram/apply";
import { recordsOfPlan } from "./apply";
import { listCopyPlans } from "./plans";

/**
 * Writes anew the ads that a plan made and whose figures changed. New ad groups, ads and keywords wait for a person, and so do the
 * figures where more ads change than the plan lets pass; what somebody wrote by hand stays.
 */
async function keepUp({ db, info, who }: JobContext, plan: CopyPlan, most: number): Promise<number> {
  const records = await recordsOfPlan(db, info, plan);
  const origin = copyOrigin(plan.key);
  const done = await keepPlan(db, who, origin, async ({ planned }) => {
    const before = await plansBefore(db, origin);
    const draft = new Draft(planned);
    const last = before.waiting ?? before.sent;
    const wanted = new Map(last ?? []);
    let changed = 0;
    const whole = last ? replan(planned, records, before, origin, []) : null;
    if (whole) keepOwnFigures(planned, whole.draft, whole.kept);
    for (const ad of planned.all("ad")) {
      const [next, plannedAd] = [whole?.draft.find("ad", ad.key), whole?.plan.get(ad.key)];
      if (!next || !plannedAd || !wanted.has(ad.key) || sameValue(next.claims, ad.claims)) continue;
      draft.put(next);
      wanted.set(ad.key, plannedAd);
      changed++;
    }
    const isFew = changed > 0 && changed <= most;
    return {
      ...{ draft, plan: wanted, kind: "copy" as const, reason: `Figures of “${plan.name}” that changed` },
      told: isFew
        ? `Copy plan "${plan.name}": ${plural(changed, "ad")} with figures that changed, in the basket`
        : null,
      value: isFew ? changed : 0,
    };
  });
  if (!done.ok) throw new FailureError(done.error);
  return done.value;
}

/** Does so for every plan that is to keep up by itself and was applied. */
async function run(context: JobContext) {
  const written: Record<string, number> = {};
  for (const { key, definition, appliedAt } of await listCopyPlans(context.db)) {
    if (!definition.keepUp || appliedAt === null) continue;
    const ads = await keepUp(context, definition, definition.keepUp.most);
    if (ads > 0) written[key] = ads;
  }
  return { written };
}

/** Each plan goes into the basket as a whole or not at all. */
export const copyKeepUp: JobHandler = { run, rollBack: async () => {} };

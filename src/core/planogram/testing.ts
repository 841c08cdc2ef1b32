import type { Account } from "../account/account";
import { proveHomes } from "../account/homes";
import { servingGroups } from "../account/walk";
import type { Columns } from "../kit/columns";
import { NO_PLANS_BEFORE, replan } from "./merge";
import { planCatalogue, type RowMeasures } from "./plan";
import { plannedRecords } from "./planned-records";
import type { Planogram } from "./planogram";

/** For tests: plans and proves in one: the account as it would be after applying the planogram, with homes and leaks. */
export function proveAccount(
  planogram: Planogram,
  catalogue: Columns,
  live: Account,
  measures: RowMeasures = {},
  wanted: Uint8Array | null = null,
) {
  const plan = planCatalogue(planogram, catalogue, measures, wanted);
  const planned = plannedRecords(planogram, plan, catalogue);
  const { draft } = replan(live, planned, NO_PLANS_BEFORE, planogram.key, planogram.replaces);
  const after = draft.after();
  const proof = proveHomes(servingGroups(after, catalogue), catalogue.length);
  return { plan, planned: Object.fromEntries(planned), diff: draft.diff(), after, proof };
}

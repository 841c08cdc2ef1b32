"use client";

import { parseAsString, useQueryStates } from "nuqs";
import type { Planogram } from "@/core/planogram/planogram";
import type { SplitField } from "@/server/planogram/planograms";
import type { AccountView } from "@/server/planogram/workbench";

import { PageWaiting } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { useFields } from "../catalogue/use-feeds";
import { Builder } from "./builder";
import { newPlanogram, withAssetGroups } from "./new-planogram";
import { PlanogramTabs } from "./tabs";
import { Workbench } from "./workbench";

interface Saved {
  key: string;
  definition: Planogram;
  appliedAt: number | null;
}

/** The structure as it is, to work on by hand; or a planogram that plans it anew. */
export default function PlanogramPage() {
  const { goal } = useWorkspace();
  const [days] = useDays();
  const apiPath = useApiPath();
  const [state, setState] = useQueryStates({
    plan: parseAsString,
    by: parseAsString.withDefault(""),
    kind: parseAsString.withDefault(""),
  });
  const known = useFields();
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));
  const fields = useApi<SplitField[]>(apiPath("split-fields"));
  const saved = useApi<Saved[]>(apiPath("planograms"));
  const error = account.error ?? fields.error ?? saved.error;
  if (error || !account.data || !fields.data || !saved.data)
    return (
      <PageWaiting title="Planogram" what="the structure" error={error}>
        <PlanogramTabs />
      </PageWaiting>
    );
  const close = () => void setState({ plan: null, by: null, kind: null });
  if (state.plan !== null) {
    const found = saved.data.find(({ key }) => key === state.plan);
    const taken = saved.data.map(({ key }) => key);
    // Assets begin with what the feed has, so its fields must be known.
    if (state.kind === "asset" && known.length === 0)
      return <PageWaiting title="Planogram" what="the fields" error={null} />;
    const fresh = newPlanogram(fields.data, account.data.lines, goal, taken, state.by);
    const start = found?.definition ?? (state.kind === "asset" ? withAssetGroups(fresh, known) : fresh);
    return (
      <Builder
        key={state.plan}
        start={start}
        saved={found?.definition ?? null}
        fields={fields.data}
        account={account.data.lines}
        onClose={close}
      />
    );
  }
  return (
    <Workbench
      view={account.data}
      planograms={saved.data.map(({ definition }) => definition)}
      onPlan={(key) => void setState({ plan: key })}
    />
  );
}

"use client";

import { formatCount } from "@/core/kit/format";
import type { JobView } from "@/server/jobs/jobs";
import { Surface } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

const STATE: Partial<Record<JobView["state"], string>> = {
  waiting: "queued",
  running: "building",
  failed: "refused",
  cancelled: "called off",
};

/** The dispatch that is under way, and the last one where the channel refused it, with its reason. */
export function OnItsWay() {
  const apiPath = useApiPath();
  const jobs = useApi<JobView[]>(apiPath("jobs"));
  const [last] = (jobs.data ?? []).filter(({ kind }) => kind === "dispatch");
  const state = last && STATE[last.state];
  if (!last || !state) return null;
  const { done, total, unit } = last.progress;
  return (
    <Surface title="On its way">
      <p className="text-sm num" role="status">
        <b>{state}</b>
        {last.state === "running" &&
          total !== null &&
          total > 0 &&
          ` · ${formatCount(done)} of ${formatCount(total)} ${unit}`}
        {last.error && (
          <>
            : {last.error.message} <span className="text-soft">{last.error.hint}</span>
          </>
        )}
      </p>
    </Surface>
  );
}

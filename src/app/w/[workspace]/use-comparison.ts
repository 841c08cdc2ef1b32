"use client";

import { useState } from "react";
import type { JobView } from "@/server/jobs/jobs";
import type { Comparison } from "@/server/market/compare";
import { apiSend, toastError, useApi } from "../../_lib/api";
import { useApiPath } from "../../_lib/workspace";

/** Runs the account as it is and with the basket on the test market; what was compared last stays, also for whoever comes back. */
export function useComparison() {
  const apiPath = useApiPath();
  const [started, setJob] = useState<string | null>(null);
  const jobs = useApi<JobView[]>(apiPath("jobs")).data;
  const job =
    started ?? jobs?.find(({ kind, state }) => kind === "market-compare" && state !== "cancelled")?.id ?? null;
  const running = useApi<JobView>(job ? apiPath(`jobs/${job}`) : null, {
    refetchInterval: (query) => (["waiting", "running"].includes(query.state.data?.state ?? "waiting") ? 500 : false),
  });
  const start = async (days: number) => {
    try {
      const { job: id } = await apiSend<{ job: string }>(apiPath("market/compare"), { days });
      setJob(id);
    } catch (error) {
      toastError(error);
    }
  };
  const state = running.data?.state;
  return {
    start,
    hasJob: job !== null,
    isBusy: job !== null && (!running.data || state === "waiting" || state === "running"),
    progress: running.data?.progress ?? null,
    error: state === "failed" ? running.data!.error : null,
    comparison: state === "done" ? (running.data!.result as Comparison) : null,
  };
}

"use client";

import { useCallback, useEffect, useRef } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import type { EditedMany } from "@/server/across/catalogue/edit-many";
import type { JobKind, JobView } from "@/server/jobs/jobs";
import type { SentResult } from "@/server/dispatch/send";
import type { recomputeAll } from "@/server/shelves/compute";
import { sayDone } from "../../_lib/undo";
import { apiSend, toastError, useApi } from "../../_lib/api";
import { useApiPath, useRefresh } from "../../_lib/workspace";

export const JOB_LABEL: Record<JobKind, [doing: string, done: string]> = {
  "feed-import": ["Reading the feed", "Feed read"],
  "feed-fetch": ["Fetching the feed", "Feed looked at"],
  "catalogue-finish": ["Working derived fields out", "Derived fields and faults are up to date"],
  "link-check": ["Looking at landing pages", "Landing pages looked at"],
  "copy-apply": ["Writing the ads", "Ads written: see the basket"],
  "copy-keep-up": ["Looking at figures in ads", "Figures in ads looked at"],
  "planogram-apply": ["Applying the planogram", "Planogram applied: see the basket"],
  dispatch: ["Sending", "Dispatch sent"],
  "market-compare": ["Running two versions of the account", "Two versions compared: see Test market"],
  "market-run": ["Running the test market", "Test market run"],
  "report-import": ["Reading the report", "Report read in"],
  "report-undo": ["Taking a report back", "Report taken back"],
  "account-edit": ["Changing items", "Items changed: see the basket"],
  "planogram-steps": ["Keeping planograms in step", "Planograms are in step"],
  shelves: ["Putting items on shelves", "Shelves are up to date"],
  "channel-places": ["Asking what clicks cost", "Rate cards are up to date"],
  "channel-reports": ["Asking for reports", "Reports came in"],
  "standing-orders": ["Standing orders are at work", "Standing orders are done: see Moves"],
  experiments: ["Looking at experiments", "Experiments looked at"],
  stocktake: ["Taking stock", "Stock taken"],
  alerts: ["Looking at alerts", "Alerts looked at"],
  "alert-messages": ["Sending alerts", "Alerts sent"],
  "make-ready": ["Making views ready", "Views are ready"],
  "channel-read": ["Reading the channel back", "Channel read back: see Dispatch, Channel"],
  "account-edit-undo": ["Taking the change back", "Change taken back"],
};

type RecomputedAll = Awaited<ReturnType<typeof recomputeAll>>;

/** Says that planograms came into step by themselves, and nothing where none had to. */
function tellSteps({ planograms }: { planograms: string[] }): void {
  if (planograms.length > 0) toast.success(`${plural(planograms.length, "planogram")} kept in step: see the basket`);
}

/** Says what a recompute of all shelves did, and nothing where nobody moved: it follows every reading and market run. */
function tellShelves({ moved, held }: RecomputedAll): void {
  if (held.length > 0) {
    toast.info(`More items would change shelf than ${held.map((name) => `“${name}”`).join(", ")} lets pass.`, {
      description: "They stay where they are until you have looked at them, in Shelves.",
    });
  } else if (moved > 0) toast.success(`${plural(moved, "move")} between shelves`);
}

/** Says what of a dispatch the channel took. */
function tellSent({ refused, otherwise }: SentResult): void {
  if (refused === 0 && otherwise === 0) toast.success(JOB_LABEL.dispatch[1]);
  else {
    const parts = [
      ...(refused > 0 ? [`${plural(refused, "change")} not taken: they wait in the basket, each with its reason`] : []),
      ...(otherwise > 0 ? [`${plural(otherwise, "change")} taken otherwise than meant`] : []),
    ];
    toast.warning("Dispatch sent, not all of it taken", { description: `${parts.join("; ")}.`, duration: 30_000 });
  }
}

/** From here on it is said that a job gives no sign. */
const LONG_QUIET_MS = 2 * 60_000;

/** Work under way, with progress and a way to stop it; says when it ends, wherever the person is by then. */
export function JobDock() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const known = useRef<Map<string, JobView["state"]> | null>(null);
  const jobs = useApi<JobView[]>(apiPath("jobs"), {
    refetchInterval: (query) => (query.state.data?.some(isActive) ? 400 : 2500),
    staleTime: 0,
  });
  const tellEdit = useCallback(
    ({ items, changes, leftOut = 0, words, edit }: EditedMany) => {
      if (edit === null) return toast.info("That is how it is already; nothing to change.");
      const without = leftOut > 0 ? `; ${plural(leftOut, "item")} without a home left out` : "";
      return sayDone(
        `${words} for ${plural(items, "item")}: ${plural(changes, "change")} in the basket${without}`,
        () => apiSend(apiPath(`account/edits/many/${edit}/take-back`)).then(refresh),
      );
    },
    [apiPath, refresh],
  );
  useEffect(() => {
    if (!jobs.data) return;
    // Jobs that had ended before this page opened are no news.
    const isFirstLook = known.current === null;
    const seen = (known.current ??= new Map());
    for (const job of jobs.data) {
      const before = seen.get(job.id);
      seen.set(job.id, job.state);
      if (isActive(job) || before === job.state || isFirstLook || !isShown(job)) continue;
      if (job.state === "done" && job.kind === "account-edit") tellEdit(job.result as EditedMany);
      else if (job.state === "done" && job.kind === "shelves") tellShelves(job.result as RecomputedAll);
      else if (job.state === "done" && job.kind === "planogram-steps")
        tellSteps(job.result as { planograms: string[] });
      else if (job.state === "done" && job.kind === "dispatch") tellSent(job.result as SentResult);
      else if (job.state === "done" && job.kind !== "channel-places") toast.success(JOB_LABEL[job.kind][1]);
      else if (job.state === "failed" && job.error) {
        toast.error(job.error.message, { description: job.error.hint, duration: 15_000 });
      } else
        toast.info(
          job.kind === "market-run"
            ? "Stopped. The days run so far stay."
            : "Stopped. What was done so far was undone.",
        );
      void refresh();
    }
  }, [jobs.data, refresh, tellEdit]);

  // A server that was away and is back: what could not be read meanwhile is asked for again.
  const wasAway = useRef(false);
  useEffect(() => {
    if (jobs.isError) wasAway.current = true;
    else if (jobs.isSuccess && wasAway.current) {
      wasAway.current = false;
      void refresh();
    }
  }, [jobs.isError, jobs.isSuccess, refresh]);

  const active = (jobs.data ?? []).filter((job) => isActive(job) && isShown(job));
  if (active.length === 0) return null;
  const job = active[0]!;
  const { done, total, unit } = job.progress;
  return (
    <div role="status" className="flex items-center gap-2 text-sm">
      <span className="h-1.5 w-24 overflow-hidden rounded-full bg-line">
        <span
          className="block h-full bg-petrol"
          style={{ width: total ? `${Math.min(100, (100 * done) / total)}%` : "30%" }}
        />
      </span>
      <span className="num">
        {JOB_LABEL[job.kind][0]}
        {job.state === "waiting" ? " soon" : ""}
        {done > 0 && ` · ${formatCount(done)} ${unit}`}
        {job.quietFor !== null && job.quietFor > LONG_QUIET_MS && (
          <span className="text-ember"> · no sign for {plural(Math.floor(job.quietFor / 60_000), "minute")}</span>
        )}
        {active.length > 1 && ` · ${active.length - 1} more waiting`}
      </span>
      <button
        type="button"
        className="rounded px-1.5 text-petrol hover:bg-raised"
        onClick={() => apiSend(apiPath(`jobs/${job.id}/cancel`)).catch(toastError)}
      >
        Stop
      </button>
    </div>
  );
}

const BY_ITSELF: ReadonlySet<JobView["kind"]> = new Set(["make-ready", "alerts", "alert-messages"]);

/** What nobody asked for and nobody waits for is not told. */
function isShown({ kind }: JobView): boolean {
  return !BY_ITSELF.has(kind);
}

function isActive(job: JobView): boolean {
  return job.state === "waiting" || job.state === "running";
}

"use client";

import { useEffect, useRef, useState } from "react";
import type { Mapping } from "@/core/catalogue/mapping";
import { formatCount, plural } from "@/core/kit/format";
import type { Failure } from "@/core/kit/outcome";
import type { RefreshCounts } from "@/db/schema";
import type { SourceInput } from "@/server/catalogue/feed-source";
import type { FeedProposal } from "@/server/catalogue/feeds";
import type { FetchResult } from "@/server/catalogue/fetch-feed";
import type { ReadingChoice } from "@/server/catalogue/reading/open-feed";
import type { JobView } from "@/server/jobs/jobs";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ErrorNote } from "@/ui/notes";
import { ApiError, apiGet, apiSend, apiUpload, toastMeanwhile, useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";
import { ChooseSource } from "./connect-steps";
import { readingQuery } from "../reading-overrides";
import { MapColumns } from "./map-columns";
import { useFeeds } from "./use-feeds";

export const FEED = "main";

type Step =
  | { name: "choose" }
  | { name: "busy"; what: string }
  | { name: "fetching"; job: string; source: SourceInput }
  | { name: "map"; fileName: string; proposal: FeedProposal; source: SourceInput | undefined }
  | { name: "reading"; job: string };

/** Takes a feed in: choose where from, check the columns, read. */
export function UploadDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const apiPath = useApiPath();
  const feeds = useFeeds();
  const [step, setStep] = useState<Step>({ name: "choose" });
  const [error, setError] = useState<Failure | null>(null);
  const close = () => {
    setStep({ name: "choose" });
    setError(null);
    onClose();
  };
  const attempt = async (work: () => Promise<void>) => {
    setError(null);
    try {
      await work();
    } catch (failure) {
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
      setStep({ name: "choose" });
    }
  };
  const upload = (file: File) =>
    attempt(async () => {
      const size = formatCount(Math.ceil(file.size / 1024));
      setStep({ name: "busy", what: `Uploading ${file.name} (${size} kB) and looking at its columns` });
      const proposal = await apiUpload<FeedProposal>(apiPath("uploads"), file);
      setStep({ name: "map", fileName: file.name, proposal, source: undefined });
    });
  const look = (source: SourceInput) =>
    attempt(async () => {
      const { job } = await apiSend<{ job: string }>(apiPath(`feeds/${FEED}/fetch`), { source, into: "upload" });
      setStep({ name: "fetching", job, source });
    });
  const fetched = (result: FetchResult, source: SourceInput) =>
    attempt(async () => {
      setStep({ name: "busy", what: `Looking at the columns of ${result.fileName}` });
      const proposal = await apiGet<FeedProposal>(apiPath(`uploads/${result.upload}`));
      setStep({ name: "map", fileName: result.fileName, proposal, source });
    });
  const again = (from: Step & { name: "map" }, reading: ReadingChoice) =>
    attempt(async () => {
      const query = new URLSearchParams(readingQuery(reading));
      const proposal = await apiGet<FeedProposal>(apiPath(`uploads/${from.proposal.upload}?${query}`));
      setStep({ ...from, proposal });
    });
  const read = (from: Step & { name: "map" }, mapping: Mapping, acceptLoss: boolean, since?: string): Promise<void> =>
    attempt(async () => {
      const { upload: id, reading } = from.proposal;
      const body = { upload: id, fileName: from.fileName, mapping, reading, source: from.source, acceptLoss, since };
      try {
        const { job } = await apiSend<{ job: string }>(apiPath(`feeds/${FEED}/import`), body);
        setStep({ name: "reading", job });
      } catch (failure) {
        if (!(failure instanceof ApiError) || failure.failure.code !== "changed-meanwhile") throw failure;
        toastMeanwhile(failure, () => void read(from, mapping, acceptLoss));
      }
    });
  return (
    <Dialog open={open} onClose={close} title="Bring the catalogue in" wide>
      {error && <ErrorNote error={error} />}
      {step.name === "choose" && (
        <ChooseSource
          inbox={feeds.data?.inbox ?? ""}
          onFile={(file) => void upload(file)}
          onSource={(source) => void look(source)}
        />
      )}
      {step.name === "busy" && (
        <p role="status" className="py-8 text-center text-soft">
          {step.what} …
        </p>
      )}
      {step.name === "fetching" && (
        <Fetching
          job={step.job}
          onDone={(result) => void fetched(result, step.source)}
          onFailed={(failure) => {
            setError(failure);
            setStep({ name: "choose" });
          }}
        />
      )}
      {step.name === "map" && (
        <MapColumns
          key={JSON.stringify(step.proposal.reading)}
          fileName={step.fileName}
          proposal={step.proposal}
          onReadAgain={(reading) => void again(step, reading)}
          onImport={(mapping, acceptLoss) => void read(step, mapping, acceptLoss, step.proposal.since)}
        />
      )}
      {step.name === "reading" && (
        <Reading job={step.job} onAgain={() => setStep({ name: "choose" })} onClose={close} />
      )}
    </Dialog>
  );
}

function useJob(job: string) {
  const apiPath = useApiPath();
  return useApi<JobView>(apiPath(`jobs/${job}`), {
    staleTime: 0,
    refetchInterval: (query) =>
      query.state.data && !["waiting", "running"].includes(query.state.data.state) ? false : 300,
  }).data;
}

function Fetching({
  job,
  onDone,
  onFailed,
}: {
  job: string;
  onDone: (result: FetchResult) => void;
  onFailed: (failure: Failure) => void;
}) {
  const found = useJob(job);
  const isTold = useRef(false);
  useEffect(() => {
    if (isTold.current || !found) return;
    if (found.state === "done") onDone(found.result as FetchResult);
    else if (found.error) onFailed(found.error);
    else return;
    isTold.current = true;
  });
  const { done = 0, total = null } = found?.progress ?? {};
  return (
    <p role="status" className="py-8 text-center text-soft num">
      Fetching the feed
      {done > 0
        ? `, ${formatCount(Math.round(done / 1024))}${total ? ` of ${formatCount(Math.round(total / 1024))}` : ""} kB`
        : ""}{" "}
      …
    </p>
  );
}

function Reading({ job, onAgain, onClose }: { job: string; onAgain: () => void; onClose: () => void }) {
  const found = useJob(job);
  if (found?.state === "failed" && found.error) {
    return (
      <div>
        <ErrorNote error={found.error} />
        <Button onClick={onAgain}>Choose another file</Button>
      </div>
    );
  }
  if (found?.state === "done") {
    const counts = found.result as RefreshCounts;
    return (
      <div className="space-y-3">
        <p className="font-display text-lg font-semibold">{plural(counts.stored, "item")} in the catalogue</p>
        <p className="num">
          {formatCount(counts.new)} new, {formatCount(counts.changed)} changed, {formatCount(counts.unchanged)} as
          before, {formatCount(counts.gone)} gone. {plural(counts.setAside, "row")} set aside
          {counts.setAside > 0 ? ": they can be seen and downloaded under Faults." : "."}
        </p>
        <Button look="ember" onClick={onClose}>
          Look at the items
        </Button>
      </div>
    );
  }
  const { done = 0, total = null } = found?.progress ?? {};
  return (
    <div role="status" className="py-6">
      <div className="h-2 overflow-hidden rounded-full bg-line">
        <div className="h-full bg-petrol" style={{ width: total ? `${Math.min(100, (100 * done) / total)}%` : "8%" }} />
      </div>
      <p className="mt-2 text-soft num">
        {done > 0 ? `${plural(done, "row")} read${total ? ` of about ${formatCount(total)}` : ""}` : "Starting"}. You
        can close this and go on; it is shown on top until it ends.
      </p>
    </div>
  );
}

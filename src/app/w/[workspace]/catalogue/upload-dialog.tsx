"use client";

import { useRef, useState } from "react";
import { FIELDS, type FieldKey } from "@/core/catalogue/fields";
import { formatCount, plural } from "@/core/kit/format";
import type { Failure } from "@/core/kit/outcome";
import type { FeedProposal } from "@/server/catalogue/feeds";
import type { JobView } from "@/server/jobs/jobs";
import type { RefreshCounts } from "@/db/schema";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox, Select } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { ApiError, apiSend, apiUpload, useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

const FEED = "main";

const DELIMITER_NAMES: Record<string, string> = {
  ",": "commas",
  ";": "semicolons",
  "\t": "tabs",
  "|": "bars",
  "^": "carets",
  "~": "tildes",
};

type Step =
  | { name: "choose" }
  | { name: "uploading"; file: File }
  | { name: "map"; file: File; proposal: FeedProposal }
  | { name: "reading"; job: string };

/** Takes a feed file in: choose, check the proposed columns, read. */
export function UploadDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const apiPath = useApiPath();
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
      setStep({ name: "uploading", file });
      const proposal = await apiUpload<FeedProposal>(apiPath(`uploads?feed=${FEED}`), file);
      setStep({ name: "map", file, proposal });
    });
  return (
    <Dialog open={open} onClose={close} title="Bring the catalogue in" wide>
      {error && <ErrorNote error={error} />}
      {step.name === "choose" && <ChooseFile onFile={(file) => void upload(file)} />}
      {step.name === "uploading" && (
        <p role="status" className="py-8 text-center text-soft">
          Uploading {step.file.name} ({formatCount(Math.ceil(step.file.size / 1024))} kB) and looking at its columns …
        </p>
      )}
      {step.name === "map" && (
        <MapColumns
          {...step}
          onRead={(columns, acceptLoss) =>
            void attempt(async () => {
              const body = { upload: step.proposal.upload, fileName: step.file.name, mapping: { columns }, acceptLoss };
              const { job } = await apiSend<{ job: string }>(apiPath(`feeds/${FEED}/import`), body);
              setStep({ name: "reading", job });
            })
          }
        />
      )}
      {step.name === "reading" && (
        <Reading job={step.job} onAgain={() => setStep({ name: "choose" })} onClose={close} />
      )}
    </Dialog>
  );
}

function ChooseFile({ onFile }: { onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  return (
    <div
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        const file = event.dataTransfer.files[0];
        if (file) onFile(file);
      }}
      className={`rounded-lg border-2 border-dashed p-8 text-center ${over ? "border-petrol bg-petrol-wash" : "border-line"}`}
    >
      <p className="mb-1 font-semibold">Drop the feed file here</p>
      <p className="mx-auto mb-4 max-w-lg text-soft">
        CSV, TSV or any other delimiter, RSS 2.0 or Atom XML; gzip of any of them. Encoding and delimiter are found out.
        Nothing changes before you have checked the columns.
      </p>
      <Button look="ember" onClick={() => input.current?.click()}>
        Choose a file
      </Button>
      <input
        ref={input}
        type="file"
        aria-label="Feed file"
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
    </div>
  );
}

function MapColumns({
  file,
  proposal,
  onRead,
}: {
  file: File;
  proposal: FeedProposal;
  onRead: (columns: Partial<Record<FieldKey, string | null>>, acceptLoss: boolean) => void;
}) {
  const [columns, setColumns] = useState<Partial<Record<FieldKey, string | null>>>(() =>
    Object.fromEntries(proposal.proposals.map(({ field, column }) => [field, column])),
  );
  const [acceptLoss, setAcceptLoss] = useState(false);
  const scores = new Map(proposal.proposals.map(({ field, column, score }) => [field, { column, score }]));
  const byName = new Map(proposal.columns.map((column) => [column.name, column]));
  const used = new Set(Object.values(columns).filter(Boolean));
  const unused = proposal.columns.filter((column) => !used.has(column.name));
  const missing = FIELDS.filter((field) => field.required && !columns[field.key]);
  const how = [
    proposal.format === "xml" ? "XML" : `parted by ${DELIMITER_NAMES[proposal.delimiter ?? ","] ?? proposal.delimiter}`,
    proposal.encoding === "windows-1252" ? "Latin-1" : proposal.encoding.toUpperCase(),
    ...(proposal.compressed ? ["gzip"] : []),
  ].join(", ");
  return (
    <div>
      <p className="mb-3">
        <b>{file.name}</b>{" "}
        <span className="text-soft">
          · {how} · {plural(proposal.columns.length, "column")}, looked at {plural(proposal.sampled, "row")}
        </span>
        {proposal.saved && <span className="text-soft"> · your saved columns are kept where they still exist</span>}
      </p>
      {proposal.repeated.length > 0 && (
        <p className="mb-3 rounded-md bg-petrol-wash px-3 py-1.5">
          Headings that stand twice are told apart by a number: {proposal.repeated.join(", ")}.
        </p>
      )}
      <div
        className="max-h-[46vh] overflow-y-auto rounded-md border border-line"
        tabIndex={0}
        role="region"
        aria-label="Columns"
      >
        <table className="w-full text-sm">
          <thead className="sticky top-0 bg-surface text-left text-soft">
            <tr className="border-b border-line">
              <th className="w-80 px-3 py-1.5 font-normal">Field</th>
              <th className="w-60 px-3 py-1.5 font-normal">Column of the feed</th>
              <th className="px-3 py-1.5 font-normal">Samples</th>
            </tr>
          </thead>
          <tbody>
            {FIELDS.map((field) => {
              const chosen = columns[field.key] ?? null;
              const column = chosen ? byName.get(chosen) : undefined;
              const proposed = scores.get(field.key);
              const unsure = chosen !== null && proposed?.column === chosen && proposed.score < 0.7;
              return (
                <tr key={field.key} className="border-b border-line/70 align-top">
                  <td className="px-3 py-1.5">
                    <b>{field.label}</b>
                    {field.required && <span className="text-soft"> · needed</span>}
                    <span className="block text-xs text-soft">{field.about}</span>
                  </td>
                  <td className="px-3 py-1.5">
                    <Select
                      aria-label={`Column for ${field.label}`}
                      value={chosen ?? ""}
                      onChange={(event) => setColumns({ ...columns, [field.key]: event.target.value || null })}
                    >
                      <option value="">{field.required ? "Choose a column" : "None"}</option>
                      {proposal.columns.map(({ name }) => (
                        <option key={name}>{name}</option>
                      ))}
                    </Select>
                    {unsure && <span className="text-xs text-ember">Not sure: please check</span>}
                    {column && column.filled < proposal.sampled && (
                      <span className="block text-xs text-soft num">
                        filled in {column.filled} of {proposal.sampled}
                      </span>
                    )}
                  </td>
                  <td className="max-w-72 px-3 py-1.5 text-soft">
                    {column?.samples.slice(0, 3).map((sample) => (
                      <span key={sample} className="block truncate" title={sample}>
                        {sample}
                      </span>
                    ))}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {unused.length > 0 && (
        <p className="mt-2 text-sm text-soft">
          Kept under their own names, usable in every split: {unused.map(({ name }) => name).join(", ")}.
        </p>
      )}
      <div className="mt-4 flex items-center justify-between gap-3">
        <Checkbox
          label="Go on even if many items are no longer in the feed"
          checked={acceptLoss}
          onChange={(event) => setAcceptLoss(event.target.checked)}
        />
        <div className="flex items-center gap-3">
          {missing.length > 0 && (
            <span className="text-sm font-semibold text-ember">
              Still needed: {missing.map(({ label }) => label).join(", ")}
            </span>
          )}
          <Button look="ember" disabled={missing.length > 0} onClick={() => onRead(columns, acceptLoss)}>
            Read the feed
          </Button>
        </div>
      </div>
    </div>
  );
}

function Reading({ job, onAgain, onClose }: { job: string; onAgain: () => void; onClose: () => void }) {
  const apiPath = useApiPath();
  const state = useApi<JobView>(apiPath(`jobs/${job}`), {
    staleTime: 0,
    refetchInterval: (query) =>
      query.state.data && !["waiting", "running"].includes(query.state.data.state) ? false : 300,
  });
  const found = state.data;
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
          {counts.setAside > 0 ? ": they can be seen and downloaded under the faults." : "."}
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
        {done > 0 ? `${formatCount(done)} rows read${total ? ` of about ${formatCount(total)}` : ""}` : "Starting"}. You
        can close this and go on; it is shown on top until it ends.
      </p>
    </div>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatCount } from "@/core/kit/format";
import type { Failure } from "@/core/kit/outcome";
import { fieldsOfKind, reportGaps } from "@/core/results/reports/report-mapping";
import {
  REPORT_FIELD_LABEL,
  REPORT_KINDS,
  REPORT_LABEL,
  REPORT_SHAPE,
  type ReportField,
  type ReportKind,
  type ReportMapping,
} from "@/core/results/reports/report-kinds";
import type { ReportProposal } from "@/server/results/reports/reports";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { DayInput } from "@/ui/day-input";
import { Field, Select, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { ApiError, apiGet, apiSend, apiUpload, useApi } from "../../../../_lib/api";
import type { ReadingChoice } from "@/server/catalogue/reading/open-feed";
import { howRead, readingQuery, ReadingOverrides } from "../../reading-overrides";
import { RenamedCampaigns } from "./renamed-campaigns";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";

/** A report file that lies on the server already and waits to be understood. */
export interface GivenReport {
  upload: string;
  fileName: string;
}

/** Takes a report file in: choose it, say what it is and which column is which, read it. */
export function ReportDialog({
  open,
  onClose,
  given = null,
  onStarted,
}: {
  open: boolean;
  onClose: () => void;
  /** A file that was chosen before the dialog opened. */
  given?: GivenReport | null;
  /** Told of the job that reads the file. */
  onStarted?: (job: string) => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [busy, setBusy] = useState("");
  const [error, setError] = useState<Failure | null>(null);
  const [chosen, setFound] = useState<{ fileName: string; proposal: ReportProposal } | null>(null);
  const lookAtGiven = useApi<ReportProposal>(open && given ? apiPath(`report-uploads/${given.upload}`) : null);
  const found = chosen ?? (given && lookAtGiven.data ? { fileName: given.fileName, proposal: lookAtGiven.data } : null);
  const close = () => {
    setFound(null);
    setError(null);
    onClose();
  };
  const attempt = async (what: string, work: () => Promise<void>) => {
    setError(null);
    setBusy(what);
    try {
      await work();
    } catch (failure) {
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    } finally {
      setBusy("");
    }
  };
  const upload = (file: File) =>
    attempt(`Uploading ${file.name} (${formatCount(Math.ceil(file.size / 1024))} kB)`, async () => {
      const proposal = await apiUpload<ReportProposal>(apiPath("report-uploads"), file);
      setFound({ fileName: file.name, proposal });
    });
  const again = (kind: ReportKind, reading: ReadingChoice) =>
    attempt("Looking at the columns again", async () => {
      const query = new URLSearchParams({ kind, ...readingQuery(reading) });
      const proposal = await apiGet<ReportProposal>(apiPath(`report-uploads/${found!.proposal.upload}?${query}`));
      setFound({ fileName: found!.fileName, proposal });
    });
  const start = (mapping: ReportMapping) =>
    attempt("Starting", async () => {
      const { upload: id, kind, reading } = found!.proposal;
      const body = { upload: id, fileName: found!.fileName, kind, mapping, reading };
      const { job } = await apiSend<{ job: string }>(apiPath("report-imports"), body);
      toast.info("Reading the report. You can go on meanwhile.");
      onStarted?.(job);
      close();
      await refresh();
    });
  return (
    <Dialog open={open} onClose={close} title={found ? `Columns of ${found.fileName}` : "Read in a report"} wide>
      {error && <ErrorNote error={error} />}
      {lookAtGiven.error && <ErrorNote error={lookAtGiven.error.failure} />}
      {lookAtGiven.isLoading && <Loading what="columns" />}
      {!found && !lookAtGiven.isLoading && (
        <div
          className="rounded-lg border-2 border-dashed border-line p-6 text-sm"
          onDragOver={(event) => event.preventDefault()}
          onDrop={(event) => {
            event.preventDefault();
            const file = event.dataTransfer.files[0];
            if (file) void upload(file);
          }}
        >
          <p>
            A report of your ads or of all store sales, as CSV, TSV or XLSX, from any platform or made by hand. A row a
            day tells most; sums over some days count for those days as a whole. What its columns mean is asked next.
          </p>
          <label className="mt-3 inline-block">
            <span className="sr-only">Report file</span>
            <input
              type="file"
              className="block text-sm file:mr-3 file:cursor-pointer file:rounded-md file:border file:border-line file:bg-surface file:px-3 file:py-1.5 file:font-semibold file:text-ink hover:file:bg-raised"
              accept=".csv,.tsv,.txt,.xlsx,.gz"
              disabled={busy !== ""}
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) void upload(file);
              }}
            />
          </label>
          {busy && (
            <p role="status" className="mt-2">
              {busy} …
            </p>
          )}
        </div>
      )}
      {found && (
        <MapReport
          key={JSON.stringify([found.proposal.upload, found.proposal.kind, found.proposal.reading])}
          proposal={found.proposal}
          busy={busy !== ""}
          onAgain={(kind, reading) => void again(kind, reading)}
          onStart={(mapping) => void start(mapping)}
        />
      )}
    </Dialog>
  );
}

function MapReport({
  proposal,
  busy,
  onAgain,
  onStart,
}: {
  proposal: ReportProposal;
  busy: boolean;
  onAgain: (kind: ReportKind, reading: ReadingChoice) => void;
  onStart: (mapping: ReportMapping) => void;
}) {
  const { currency } = useWorkspace();
  const [mapping, setMapping] = useState(proposal.mapping);
  const { kind } = proposal;
  const headings = proposal.columns.map(({ name }) => name);
  const gaps = reportGaps(kind, mapping, headings);
  const isForeign = mapping.currency !== null && mapping.currency !== currency;
  const samplesOf = (field: ReportField) =>
    proposal.columns.find(({ name }) => name === mapping.columns[field])?.samples.join(" · ") ?? "";
  const unread = headings.filter((heading) => !Object.values(mapping.columns).includes(heading));
  const [days, keepDays] = useState({ from: mapping.window?.from ?? "", to: mapping.window?.to ?? "" });
  const setDays = (next: typeof days) => {
    keepDays(next);
    const isWhole = next.from !== "" && next.to !== "" && next.from <= next.to;
    setMapping({ ...mapping, window: isWhole ? next : null });
  };
  const setColumn = (field: ReportField, heading: string) =>
    setMapping({ ...mapping, columns: { ...mapping.columns, [field]: heading || null } });
  return (
    <form
      className="space-y-4 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        onStart(mapping);
      }}
    >
      <div className="flex flex-wrap items-center justify-between gap-2">
        <span className="text-soft">{howRead(proposal)}</span>
        <ReadingOverrides found={proposal} onReadAgain={(reading) => onAgain(kind, reading)} />
      </div>
      <div className="grid grid-cols-4 gap-3">
        <Field label="What it is">
          {(props) => (
            <Select
              {...props}
              value={kind}
              disabled={busy}
              onChange={(event) => onAgain(event.target.value as ReportKind, proposal.reading)}
            >
              {REPORT_KINDS.map((choice) => (
                <option key={choice} value={choice}>
                  {REPORT_LABEL[choice]}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Short dates">
          {(props) => (
            <Select
              {...props}
              value={mapping.dateOrder}
              onChange={(event) =>
                setMapping({ ...mapping, dateOrder: event.target.value as ReportMapping["dateOrder"] })
              }
            >
              <option value="day-month">3/4 is 3 April</option>
              <option value="month-day">3/4 is 4 March</option>
            </Select>
          )}
        </Field>
        <Field label="Decimal mark">
          {(props) => (
            <Select
              {...props}
              value={mapping.decimal}
              onChange={(event) => setMapping({ ...mapping, decimal: event.target.value as "." | "," })}
            >
              <option value=".">1,234.56</option>
              <option value=",">1.234,56</option>
            </Select>
          )}
        </Field>
        <Field label="Its money is in">
          {(props) => (
            <TextInput
              {...props}
              value={mapping.currency ?? currency}
              maxLength={3}
              onChange={(event) => setMapping({ ...mapping, currency: event.target.value.toUpperCase() || null })}
            />
          )}
        </Field>
        {isForeign && (
          <Field
            label={`${currency} for one ${mapping.currency}`}
            hint="Amounts of two currencies are never added up; they are turned by this rate."
          >
            {(props) => (
              <TextInput
                {...props}
                inputMode="decimal"
                defaultValue={mapping.rate ?? ""}
                onChange={(event) => {
                  const rate = Number(event.target.value.replace(",", "."));
                  setMapping({ ...mapping, rate: rate > 0 ? rate : null });
                }}
              />
            )}
          </Field>
        )}
      </div>
      {!mapping.columns.day && (
        <fieldset className="flex items-center gap-2">
          <legend className="mb-1 font-medium">Without a day a row: the days that the rows are sums over</legend>
          {(["from", "to"] as const).map((end) => (
            <DayInput
              key={end}
              aria-label={end === "from" ? "First day of the file" : "Last day of the file"}
              className="w-40!"
              value={days[end]}
              onChange={(text) => setDays({ ...days, [end]: text })}
            />
          ))}
        </fieldset>
      )}
      <table className="w-full" aria-label="Columns">
        <thead>
          <tr className="border-b border-line text-left text-soft">
            <th className="py-1 font-normal">What</th>
            <th className="font-normal">Column of the file</th>
            <th className="font-normal">First values</th>
          </tr>
        </thead>
        <tbody>
          {fieldsOfKind(kind).map((field) => {
            const isMust = REPORT_SHAPE[kind].must.includes(field);
            return (
              <tr key={field} className="border-b border-line/60">
                <td className="w-48 py-0.5">
                  {REPORT_FIELD_LABEL[field]}
                  {isMust && <span className="text-soft"> (needed)</span>}
                </td>
                <td className="w-64 pr-3">
                  <Select
                    aria-label={REPORT_FIELD_LABEL[field]}
                    className="h-7!"
                    value={mapping.columns[field] ?? ""}
                    onChange={(event) => setColumn(field, event.target.value)}
                  >
                    <option value="">not in the file</option>
                    {headings.map((heading) => (
                      <option key={heading}>{heading}</option>
                    ))}
                  </Select>
                </td>
                <td className="max-w-72 truncate text-soft">{samplesOf(field)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <RenamedCampaigns
        fresh={proposal.fresh}
        renamed={mapping.renamed}
        onChange={(renamed) => setMapping({ ...mapping, renamed })}
      />
      {gaps.length > 0 && <p className="font-semibold text-ember">{gaps.join(" ")}</p>}
      {unread.length > 0 && (
        <p>
          <b>Not read:</b> {unread.join(", ")}. What these columns hold is not kept.
        </p>
      )}
      {proposal.saved && <p className="text-soft">These columns were read before; they are read the same way.</p>}
      <p className="text-soft">
        What the file says of a campaign on a day replaces what an earlier report of this kind said, so nothing counts
        twice. The whole file can be taken back.
      </p>
      <div className="flex justify-end gap-2">
        <Button type="submit" look="ember" disabled={busy || gaps.length > 0 || (isForeign && mapping.rate === null)}>
          Read it in
        </Button>
      </div>
    </form>
  );
}

"use client";

import { Download, Upload } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { formatDay } from "@/core/kit/days";
import { formatCount, formatMoment, plural } from "@/core/kit/format";
import { REPORT_KINDS, REPORT_LABEL } from "@/core/results/reports/report-kinds";
import type { listReportImports, reportRowsAside } from "@/server/results/reports/take-back";
import type { Slice } from "@/server/across/results/slice";
import type { JobView } from "@/server/jobs/jobs";
import { Button, buttonClasses } from "@/ui/button";
import { SidePanel } from "@/ui/dialog";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useDays, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { ResultsTabs } from "../tabs";
import { ReportDialog } from "./report-dialog";

type Imports = Awaited<ReturnType<typeof listReportImports>>;
type AsideRows = Awaited<ReturnType<typeof reportRowsAside>>;

/** Report files read in, what became of each, and taking one back; and the reports of these days as files. */
export default function ReportsPage() {
  const { slug, timeZone } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [days] = useDays();
  const [dialog, setDialog] = useState(false);
  const [aside, setAside] = useState<Imports[number] | null>(null);
  const imports = useApi<Imports>(apiPath("report-imports"));
  const span = useApi<Slice>(apiPath(`results?level=workspace&days=${days}&compare=none`));
  const jobs = useApi<JobView[]>(apiPath("jobs"));
  // The jobs that take reports back, by report: asked once, a report can't be taken back again but where that failed.
  const [undoing, setUndoing] = useState<Record<number, string>>({});
  const isUndoing = (id: number) => {
    const state = jobs.data?.find((job) => job.id === undoing[id])?.state;
    return id in undoing && state !== "failed" && state !== "cancelled";
  };
  const takeBack = async (id: number) => {
    try {
      const { job } = await apiSend<{ job: string }>(apiPath(`report-imports/${id}/take-back`));
      setUndoing((known) => ({ ...known, [id]: job }));
      toast.info("Taking the report back.");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <div className="flex flex-col gap-3">
      <PageHead title="Results" facts="Report files of your own account, read in or written out">
        <Button look="ember" onClick={() => setDialog(true)}>
          <Upload aria-hidden className="size-3.5" /> Read in a report
        </Button>
      </PageHead>
      <ResultsTabs />
      {imports.error && <ErrorNote error={imports.error.failure} />}
      {imports.isPending && <Loading what="report files" />}
      {imports.data?.length === 0 && (
        <EmptyNote title="Report files will stand here">
          Read in item, term, placement, slot, hour and store-sales reports from any platform, or made by hand in a
          spreadsheet. The test market&rsquo;s own days come in without a file.
        </EmptyNote>
      )}
      {imports.data && imports.data.length > 0 && (
        <Surface title="Read in">
          <table className="w-full text-sm" aria-label="Report files">
            <thead>
              <tr className="border-b border-line text-left text-soft">
                <th className="py-1 font-normal">File</th>
                <th className="font-normal">What</th>
                <th className="font-normal">Days</th>
                <th className="pr-4 text-right font-normal">Rows</th>
                <th className="font-normal">What became of them</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {imports.data.map((one) => (
                <tr key={one.id} className="border-b border-line/60 align-top">
                  <td className="py-2 pr-3">
                    <b className={one.undoneAt ? "line-through" : ""}>{one.fileName}</b>
                    <span className="block text-xs text-soft num">{formatMoment(one.at, timeZone)}</span>
                  </td>
                  <td className="py-2 pr-3">{REPORT_LABEL[one.kind]}</td>
                  <td className="py-2 pr-3 num">
                    {one.fromDay === null ? "–" : `${formatDay(one.fromDay)} to ${formatDay(one.toDay ?? one.fromDay)}`}
                  </td>
                  <td className="py-2 pr-4 text-right num">{formatCount(one.counts.stored)}</td>
                  <td className="py-2 pr-3">
                    {one.undoneAt ? <p>Taken back on {formatMoment(one.undoneAt, timeZone)}.</p> : null}
                    {one.counts.notices.map((notice) => (
                      <p key={notice}>{notice}</p>
                    ))}
                    {one.counts.setAside > 0 && (
                      <button type="button" className="text-petrol underline" onClick={() => setAside(one)}>
                        {plural(one.counts.setAside, "row")} set aside
                      </button>
                    )}
                  </td>
                  <td className="py-1 text-right">
                    {!one.undoneAt && (
                      <Button look="quiet" disabled={isUndoing(one.id)} onClick={() => void takeBack(one.id)}>
                        Take back
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Surface>
      )}
      {span.data?.from && span.data.to && (
        <Surface title={`Written out, ${span.data.from} to ${span.data.to}`}>
          <ul className="grid grid-cols-3 gap-x-6 gap-y-1 text-sm">
            {REPORT_KINDS.map((kind) => (
              <li key={kind} className="flex items-center justify-between">
                {REPORT_LABEL[kind]}
                <span className="flex">
                  {["csv", "xlsx"].map((format) => (
                    <a
                      key={format}
                      className={buttonClasses("quiet")}
                      href={`/api/v1/${slug}/reports/${kind}.${format}?from=${span.data.from}&to=${span.data.to}`}
                      download
                    >
                      {format === "csv" && <Download aria-hidden className="size-3.5" />} {format.toUpperCase()}
                      <span className="sr-only"> of the {REPORT_LABEL[kind].toLowerCase()}</span>
                    </a>
                  ))}
                </span>
              </li>
            ))}
          </ul>
        </Surface>
      )}
      <ReportDialog open={dialog} onClose={() => setDialog(false)} />
      <SidePanel open={aside !== null} onClose={() => setAside(null)} title="Rows set aside">
        {aside && <AsideList id={aside.id} />}
      </SidePanel>
    </div>
  );
}

function AsideList({ id }: { id: number }) {
  const rows = useApi<AsideRows>(useApiPath()(`report-imports/${id}/aside`));
  if (!rows.data) return <Loading what="rows" />;
  return (
    <ol className="space-y-2 text-sm">
      {rows.data.map(({ row, reason, cells }) => (
        <li key={row}>
          <b className="num">Row {row}</b>: {reason}
          <span className="block truncate text-xs text-soft">{cells.join(" | ")}</span>
        </li>
      ))}
    </ol>
  );
}

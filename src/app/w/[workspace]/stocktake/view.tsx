"use client";

import { parseAsInteger, parseAsString, useQueryState } from "nuqs";
import { useRef, useState } from "react";
import { formatMoment, formatMetric, plural } from "@/core/kit/format";
import { CHAPTERS, windowWords } from "@/core/stocktake/chapters";
import { FAULTS } from "@/core/stocktake/finding";
import { plainSpelling } from "@/core/stocktake/phrase";
import type { ChapterView, StocktakeLine, StocktakeView } from "@/server/stocktake/stocktakes";
import { Button } from "@/ui/button";
import { Select } from "@/ui/field";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead, PageWaiting, WaitingRows } from "@/ui/page";
import { Who } from "@/ui/who";
import { apiDelete, apiSend, jobEnded, toastError, useApi } from "../../../_lib/api";
import { sayDone } from "../../../_lib/undo";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { ReportDialog as ReadReportDialog } from "../results/reports/report-dialog";
import { Chapter } from "./chapter";
import { ComparePanel } from "./compare";
import { Findings, scaleOf } from "./findings";
import { ReportDialog } from "./report-dialog";
import { WhereToBegin } from "./where-to-begin";

/** What is wrong with the account, ranked by money, with the chapters it stands on. */
export default function StocktakePage() {
  const apiPath = useApiPath();
  useOwnWindow("The last 90 days");
  const all = useApi<StocktakeLine[]>(apiPath("stocktakes"));
  const [asked, setAsked] = useQueryState("stocktake", parseAsInteger);
  const take = useTakeStock((id) => void setAsked(id));
  const add = useAddReport(take.start);
  if (!all.data) return <PageWaiting title="Stocktake" what="stocktakes" error={all.error} />;
  const shown = all.data.find(({ id }) => id === asked) ?? all.data[0];
  if (!shown) {
    return (
      <div className="flex h-full flex-col space-y-3">
        <PageHead title="Stocktake" facts="No stock was taken yet" />
        <EmptyNote
          title="No stock was taken yet"
          action={
            <>
              <Button disabled={take.isBusy} onClick={add.open}>
                Add a report file …
              </Button>
              <Button look="ember" disabled={take.isBusy} onClick={() => void take.start()}>
                {take.isBusy ? "Taking stock …" : "Take stock"}
              </Button>
            </>
          }
        >
          A stocktake says in sentences what is wrong with the account and what it costs a month, with the tables it
          stands on. It reads results, catalogue and structure, whatever there is of them, and changes nothing.
        </EmptyNote>
        {add.dialog}
      </div>
    );
  }
  return <Taken lines={all.data} shown={shown} take={take} add={add} onChoose={(id) => void setAsked(id)} />;
}

/** Adding a report file, which a stocktake is taken with as soon as it is read; one that was chosen at the door waits already. */
function useAddReport(takeStock: (after: string) => Promise<void>) {
  const [upload, setUpload] = useQueryState("upload", parseAsString);
  const [fileName, setFileName] = useQueryState("file", parseAsString);
  const [isAsked, setAsked] = useState(false);
  const onClose = () => {
    setAsked(false);
    void setUpload(null);
    void setFileName(null);
  };
  return {
    open: () => setAsked(true),
    dialog: (
      <ReadReportDialog
        open={isAsked || upload !== null}
        given={upload === null ? null : { upload, fileName: fileName ?? "report" }}
        onClose={onClose}
        onStarted={(job) => void takeStock(job)}
      />
    ),
  };
}

/** Takes stock as a job, after another one where it has to wait for that, and opens it once it is there. */
function useTakeStock(open: (id: number | null) => void) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [isBusy, setBusy] = useState(false);
  const start = async (after: string | null = null) => {
    setBusy(true);
    try {
      if (after !== null && !(await jobEnded(apiPath(`jobs/${after}`)).catch(() => false))) return;
      const { job } = await apiSend<{ job: string }>(apiPath("stocktakes"), {});
      // That it failed, and why, is said where all jobs are told.
      if (await jobEnded(apiPath(`jobs/${job}`)).catch(() => false)) {
        await refresh();
        open(null);
      }
    } catch (error) {
      toastError(error);
    } finally {
      setBusy(false);
    }
  };
  return { isBusy, start };
}

function Taken({
  lines,
  shown,
  take,
  add,
  onChoose,
}: {
  lines: StocktakeLine[];
  shown: StocktakeLine;
  take: ReturnType<typeof useTakeStock>;
  add: ReturnType<typeof useAddReport>;
  onChoose: (id: number | null) => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { timeZone } = useWorkspace();
  const [isReport, setReport] = useState(false);
  const [other, setOther] = useState<number | null>(null);
  const view = useApi<StocktakeView>(apiPath(`stocktakes/${shown.id}`));
  const remove = async () => {
    try {
      await apiDelete(apiPath(`stocktakes/${shown.id}`));
      sayDone(`“${shown.name}” taken away.`, () => apiSend(apiPath(`stocktakes/${shown.id}/bring-back`)).then(refresh));
      onChoose(null);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const head = view.data?.head;
  const facts = head
    ? `${plural(shown.findings, "finding")} · ${windowWords(head)} · return ${formatMetric("roas", shown.roas, head.currency)} of ${head.goal}`
    : plural(shown.findings, "finding");
  const others = lines.filter(({ id }) => id !== shown.id);
  return (
    <div className="flex h-full min-h-0 flex-col space-y-3">
      <PageHead title="Stocktake" facts={facts}>
        {lines.length > 1 && (
          <span className="w-56">
            <Select
              aria-label="Which stocktake"
              value={shown.id}
              onChange={(event) => onChoose(Number(event.target.value))}
            >
              {lines.map(({ id, name, at }) => (
                <option key={id} value={id}>
                  {name}, {formatMoment(at, timeZone)}
                </option>
              ))}
            </Select>
          </span>
        )}
        {others.length > 0 && (
          <span className="w-36">
            <Select aria-label="Compare with" value="" onChange={(event) => setOther(Number(event.target.value))}>
              <option value="">Compare with …</option>
              {others.map(({ id, name, at }) => (
                <option key={id} value={id}>
                  {name}, {formatMoment(at, timeZone)}
                </option>
              ))}
            </Select>
          </span>
        )}
        <Button onClick={add.open} disabled={take.isBusy}>
          Add a file …
        </Button>
        <Button onClick={() => setReport(true)} disabled={!view.data}>
          Report …
        </Button>
        <Button look="ember" disabled={take.isBusy} onClick={() => void take.start()}>
          {take.isBusy ? "Taking stock …" : "Take stock"}
        </Button>
      </PageHead>
      {view.error ? (
        <ErrorNote error={view.error.failure} />
      ) : view.data ? (
        <Body view={view.data} isFirst={lines.length === 1} onRemove={() => void remove()} />
      ) : (
        <WaitingRows />
      )}
      {add.dialog}
      {isReport && view.data && <ReportDialog view={view.data} onClose={() => setReport(false)} />}
      {other !== null && <ComparePanel id={shown.id} other={other} onClose={() => setOther(null)} />}
    </div>
  );
}

function Body({ view, isFirst, onRemove }: { view: StocktakeView; isFirst: boolean; onRemove: () => void }) {
  const { timeZone } = useWorkspace();
  const apiPath = useApiPath();
  const chapters = useApi<ChapterView[]>(apiPath(`stocktakes/${view.id}/chapters`));
  const spelling = plainSpelling(view.head.currency);
  const dismissed = new Set(view.dismissed.map(({ finding }) => finding));
  const open = view.head.findings.filter(({ key }) => !dismissed.has(key));
  const aside = view.head.findings.filter(({ key }) => dismissed.has(key));
  const scale = scaleOf(open);
  const scroller = useRef<HTMLDivElement>(null);
  // Going to the anchor would scroll the frame around the page too.
  const goTo = (key: string) => scroller.current?.scrollTo({ top: document.getElementById(key)?.offsetTop ?? 0 });
  const told = view.chapters.filter(({ isLeftOut }) => !isLeftOut);
  return (
    <div className="flex min-h-0 flex-1 gap-4">
      <div ref={scroller} className="relative min-w-0 flex-1 space-y-3 overflow-y-auto pr-1">
        {isFirst && open[0] && <WhereToBegin worst={open[0]} spelling={spelling} onChapter={goTo} />}
        <section aria-label="What was found" className="rounded-lg border border-line bg-surface px-4 py-2">
          <div className="flex items-baseline gap-3">
            <h2 className="font-display text-lg font-semibold">What was found</h2>
            <p className="text-sm text-soft">
              By money a month. Findings look at the same money from several sides, so they do not add up.
            </p>
          </div>
          {open.length > 0 ? (
            <Findings findings={open} scale={scale} spelling={spelling} />
          ) : (
            <p className="py-2">Nothing was found that is worth a line.</p>
          )}
          {aside.length > 0 && <Aside view={view} />}
        </section>
        {chapters.error && <ErrorNote error={chapters.error.failure} />}
        {chapters.data?.map((chapter) => (
          <Chapter
            key={chapter.key}
            stocktake={view.id}
            chapter={chapter}
            remark={view.remarks[chapter.key] ?? ""}
            dismissed={dismissed}
            scale={scale}
            spelling={spelling}
          />
        ))}
      </div>
      <nav aria-label="Chapters" className="w-44 shrink-0 overflow-y-auto text-sm max-lg:hidden">
        <h2 className="mb-1 font-semibold">Chapters</h2>
        <ul className="space-y-0.5">
          {told.map(({ key, lacks }) => (
            <li key={key}>
              <a
                href={`#${key}`}
                onClick={(event) => {
                  event.preventDefault();
                  goTo(key);
                }}
                className={lacks ? "text-soft" : "text-petrol hover:underline"}
              >
                {CHAPTERS[key].title}
                {lacks && " (lacking)"}
              </a>
            </li>
          ))}
        </ul>
        <p className="mt-3 text-soft">
          “{view.name}”, taken {formatMoment(view.at, timeZone)} by <Who who={view.who} />
        </p>
        <Button look="quiet" className="-ml-3" onClick={onRemove}>
          Take this one away
        </Button>
      </nav>
    </div>
  );
}

/** What was put aside, with why, and the way back. */
function Aside({ view }: { view: StocktakeView }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const found = new Map(view.head.findings.map((one) => [one.key, one]));
  const lines = view.dismissed.flatMap((one) =>
    found.has(one.finding) ? [{ ...one, fault: found.get(one.finding)!.fault }] : [],
  );
  const takeUp = async (finding: string) => {
    try {
      await apiSend(apiPath("stocktake-findings"), { finding, reason: "" }, "PUT");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <details className="border-t border-line py-2 text-sm">
      <summary className="cursor-pointer text-soft">{plural(lines.length, "finding")} put aside</summary>
      <ul className="mt-1 space-y-1">
        {lines.map(({ finding, fault, reason, who }) => (
          <li key={finding} className="flex items-center gap-2">
            <span className="min-w-0 flex-1">
              {FAULTS[fault]}: {reason} <span className="text-soft">({who})</span>
            </span>
            <Button look="quiet" onClick={() => void takeUp(finding)}>
              Take up again
              <span className="sr-only"> {FAULTS[fault]}</span>
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}

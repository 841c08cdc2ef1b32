"use client";

import { keepPreviousData } from "@tanstack/react-query";
import { Download, X } from "lucide-react";
import Link from "next/link";
import { useCallback, useRef, useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { METRICS, type MetricKey } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import { REPORT_LABEL } from "@/core/results/reports/report-kinds";
import { isLevel, LEVEL_LABEL, LEVELS, type Level } from "@/core/results/levels";
import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { Button, buttonClasses } from "@/ui/button";
import { useRemembered } from "@/ui/use-remembered";
import { cx } from "@/ui/cx";
import { Select, TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useKeys } from "@/ui/use-keys";
import { apiGet, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { ColumnChooser } from "../column-chooser";
import { KeepShelfDialog, type KeptAs } from "../keep-shelf-dialog";
import { SavedViews } from "../saved-views";
import { METRIC_FIELDS, ResultsControls } from "./controls";
import { goalText, Headlines } from "./headlines";
import { isPickable, ResultActions } from "./result-actions";
import { ResultsTable } from "./results-table";
import { ReturnScatter } from "./return-scatter";
import { ResultsTabs } from "./tabs";
import { TimeChart } from "./time-chart";
import { CHARTS, useResultsView, type Where, type Within } from "./use-results";
import { WhereFilter } from "./where-filter";

const NOTHING: ReadonlySet<string> = new Set();

/** What a line is about, as a shelf holds it; null for what is no item of the catalogue. */
function shelfOfLine(level: Level, { key, name }: SliceLine, set: string): KeptAs | null {
  if (level === "item") return { ids: [key] };
  const field = level === "shelf" ? `shelf:${set}` : level.slice("field:".length);
  const condition =
    key === "" ? { op: "empty" as const, value: "" } : { op: "is" as const, value: level === "shelf" ? name : key };
  return { where: { match: "all", of: [{ field, ...condition }] } };
}

/** Lines read at once; more are searched for, sorted to the top, or exported. */
const MOST_LINES = 500;
/** Lines that can be picked together. */
const MOST_PICKED = 100_000;

/** The picked lines: those on screen, and those that were read for picking all. */
function pickedLines(shown: SliceLine[], beyond: SliceLine[], keys: ReadonlySet<string>): SliceLine[] {
  const read = shown.filter(({ key }) => keys.has(key));
  const known = new Set(read.map(({ key }) => key));
  return [...read, ...beyond.filter(({ key }) => keys.has(key) && !known.has(key))];
}

/** What is looked at next when a line is opened. */
const BEHIND: Partial<Record<Level, Level>> = {
  workspace: "campaign",
  shelf: "item",
  campaign: "adGroup",
  adGroup: "item",
  target: "term",
  slot: "day",
  hour: "day",
  placement: "day",
  term: "day",
  day: "campaign",
};

const BAR_METRICS: MetricKey[] = ["cost", "revenue", "orders", "clicks", "impressions", "units", "storeRevenue"];

/** What happened: by any level and split, against other days, with how sure it is; every number opens to its rows. */
export default function ResultsPage() {
  const { slug, goal } = useWorkspace();
  const apiPath = useApiPath();
  const view = useResultsView();
  const { state, setState, columns, defaults, query, common, sort } = view;
  const search = useRef<HTMLInputElement>(null);
  useOwnWindow(state.from || state.to ? `${state.from || "start"} to ${state.to || "end"}, chosen here` : null);
  const [isFolded, setFolded] = useRemembered("results.folded");
  const keep = { placeholderData: keepPreviousData };
  const slice = useApi<Slice>(apiPath(`results?${query}&limit=${MOST_LINES}`), keep);
  const days = useApi<Slice>(apiPath(`results?${common}&level=day&compare=none&sort=name&limit=1000`), keep);
  const level: Level = isLevel(state.level) ? state.level : "campaign";
  const open = useCallback(
    (line: SliceLine) => {
      const within: Within[] = [
        ...state.within.filter((one) => one.level !== level),
        { level, key: line.key, name: line.name },
      ];
      const next = BEHIND[level] ?? (level.startsWith("field:") ? "item" : "day");
      void setState({ within, level: next, split: "", q: "", where: [], sort: "" });
    },
    [level, setState, state.within],
  );
  const [kept, setKept] = useState<{ what: KeptAs; count: number | null; suggestion: string } | null>(null);
  const toShelf = useCallback(
    (line: SliceLine) => {
      const what = shelfOfLine(level, line, state.set);
      // How many items it holds is counted when it is kept; a line tells only those with results.
      if (what) setKept({ what, count: what.ids ? 1 : null, suggestion: line.name.slice(0, 40) });
    },
    [level, state.set],
  );
  // What is picked is of one level; on another one there is nothing of it.
  const [picked, setPicked] = useState<{ level: Level; keys: ReadonlySet<string>; beyond: SliceLine[] }>({
    ...{ level, keys: NOTHING, beyond: [] },
  });
  const selected = picked.level === level ? picked.keys : NOTHING;
  const select = useCallback(
    (keys: ReadonlySet<string>) => setPicked((old) => ({ level, keys, beyond: old.level === level ? old.beyond : [] })),
    [level],
  );
  /** Picks all that is found: those that are not read yet are read now. */
  const selectAll = async () => {
    if (selected.size > 0 || !slice.data) return select(NOTHING);
    const { count, lines: read } = slice.data;
    try {
      const all =
        count > read.length ? await apiGet<Slice>(apiPath(`results?${query}&limit=${MOST_PICKED}`)) : slice.data;
      setPicked({ level, keys: new Set(all.lines.map(({ key }) => key)), beyond: all.lines.slice(read.length) });
    } catch (error) {
      toastError(error);
    }
  };
  const [cursor, setCursor] = useState(-1);
  const lines = slice.data?.lines ?? [];
  useKeys({
    "/": () => search.current?.focus(),
    j: () => setCursor((at) => Math.min(lines.length - 1, at + 1)),
    k: () => setCursor((at) => Math.max(0, at - 1)),
    x: () => {
      const line = lines[cursor];
      if (!line || !isPickable(level)) return;
      const next = new Set(selected);
      if (!next.delete(line.key)) next.add(line.key);
      select(next);
    },
    a: () => isPickable(level) && void selectAll(),
    Enter: () => lines[cursor] && open(lines[cursor]),
  });
  const current = Object.fromEntries(
    Object.entries(state).flatMap(([key, value]) => {
      if (Array.isArray(value)) return value.length > 0 ? [[key, JSON.stringify(value)]] : [];
      return value === "" || value === false ? [] : [[key, String(value)]];
    }),
  ) as Record<string, string>;
  const facts = slice.data?.from
    ? `${slice.data.source === "item" ? "" : `${REPORT_LABEL[slice.data.source]} · `}${slice.data.from} to ${slice.data.to}${slice.data.compared ? against(slice.data.compared) : ""} · goal ${goalText(goal, state.lang)}`
    : slice.data
      ? "No results yet"
      : "";
  const exportQuery = `${query}&metrics=${columns.join(",")}`;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead title="Results" facts={facts}>
        <SavedViews
          screen="results"
          current={current}
          onOpen={(saved) => {
            const { within, where, complete, ...rest } = saved;
            const blank = Object.fromEntries(Object.keys(state).map((key) => [key, null]));
            void setState({
              ...blank,
              ...rest,
              within: within ? (JSON.parse(within) as Within[]) : null,
              where: where ? (JSON.parse(where) as Where[]) : null,
              complete: complete === "true" || null,
            } as Parameters<typeof setState>[0]);
          }}
        />
        <ColumnChooser
          fields={METRIC_FIELDS}
          chosen={columns}
          defaults={defaults}
          onChange={(next) => void setState({ columns: next.join(",") })}
        />
        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/results.csv?${exportQuery}`} download>
          <Download aria-hidden className="size-3.5" /> CSV
        </a>
        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/results.xlsx?${exportQuery}`} download>
          XLSX
        </a>
      </PageHead>
      <ResultsTabs />
      {(slice.error || slice.data?.from) && <ResultsControls view={view} offered={slice.data?.offered ?? LEVELS} />}
      {slice.error && <ErrorNote error={slice.error.failure} />}
      {slice.isPending && <Loading what="results" />}
      {slice.data && !slice.data.from && (
        <EmptyNote title="Results will stand here">
          Dispatch a structure and <Link href={`/w/${slug}/results/market`}>run some days of the test market</Link>, or{" "}
          <Link href={`/w/${slug}/results/reports`}>read in a report file</Link> of your own account.
        </EmptyNote>
      )}
      {slice.data?.from && (
        <>
          {!isFolded && (
            <>
              <Headlines
                now={slice.data.total}
                before={slice.data.before}
                missing={slice.data.missingOfTotal}
                language={state.lang}
              />
              <Charts
                slice={slice.data}
                days={days.data}
                chart={state.chart}
                language={state.lang}
                onChart={(chart) => void setState({ chart })}
                onOpen={open}
              />
              {days.data && <OnNoDay all={slice.data} days={days.data} />}
            </>
          )}
          <div className="flex flex-wrap items-center gap-2">
            <TextInput
              ref={search}
              type="search"
              aria-label="Search lines"
              placeholder={`Search ${slice.data.levelLabel[1].toLowerCase()}  ( / )`}
              className="w-64!"
              value={state.q}
              onChange={(event) => void setState({ q: event.target.value })}
            />
            <WhereFilter where={state.where} onChange={(where) => void setState({ where })} />
            {state.within.map((one, i) => (
              <button
                key={`${one.level}/${one.key}`}
                type="button"
                className="flex h-8 items-center gap-1 rounded-full border border-line bg-surface px-3 text-sm hover:bg-raised"
                aria-label={`No longer only ${one.name}`}
                onClick={() => void setState({ within: state.within.filter((_, at) => at !== i), level: one.level })}
              >
                <span className="text-soft">{labelOf(one.level)}</span> <b>{one.name}</b>{" "}
                <X aria-hidden className="size-3.5" />
              </button>
            ))}
            <Button look="quiet" aria-expanded={!isFolded} onClick={() => setFolded(!isFolded)}>
              {isFolded ? "Show figures and chart" : "Fold figures and chart"}
            </Button>
            <Incomplete slice={slice.data} isCounted={state.complete} />
          </div>
          <div className="flex min-h-80 flex-1 flex-col gap-2">
            {selected.size > 0 && isPickable(level) && (
              <ResultActions
                level={level}
                lines={pickedLines(slice.data.lines, picked.beyond, selected)}
                set={state.set}
                within={state.within.find(({ level: of }) => of === "campaign" || of === "adGroup") ?? null}
                onClear={() => select(NOTHING)}
              />
            )}
            <ResultsTable
              slice={slice.data}
              selected={isPickable(level) ? selected : undefined}
              onSelect={select}
              onSelectAll={() => void selectAll()}
              cursor={cursor}
              onCursor={setCursor}
              level={level}
              columns={columns}
              sort={sort}
              onSort={(next) => void setState({ sort: next })}
              onOpen={open}
              onShelf={level === "item" || level === "shelf" || level.startsWith("field:") ? toShelf : undefined}
            />
          </div>
        </>
      )}
      {kept && <KeepShelfDialog {...kept} onClose={() => setKept(null)} />}
    </div>
  );
}

/** The days compared with; where results do not reach over all of them, nothing is compared, and that is said. */
function against({ from, to, days, known }: NonNullable<Slice["compared"]>): string {
  if (known < days) {
    return known === 0
      ? ", nothing before to compare with"
      : `, not compared: results on only ${known} of the ${days} days from ${from}`;
  }
  return `, against ${from} to ${to}`;
}

/** Says where the chart is not of what the lines are of: another report, or without what files tell of spans of days. */
function OnNoDay({ all, days }: { all: Slice; days: Slice }) {
  const { currency } = useWorkspace();
  const rest = all.total.cost - days.total.cost;
  if (all.source !== days.source) {
    if (all.missing.length === 0) return null;
    return <p className="text-sm text-soft">The chart is of the {REPORT_LABEL[days.source].toLowerCase()}.</p>;
  }
  if (rest <= 0) return null;
  return (
    <p className="text-sm text-soft num">
      <b className="text-ink">{formatMoney(rest, currency)} of the spend</b> is known only for spans of days, from
      report files that sum over them, and stands on no day of the chart.
    </p>
  );
}

/** Says that the last days of the window will still grow. */
function Incomplete({ slice, isCounted }: { slice: Slice; isCounted: boolean }) {
  if (slice.incompleteDays === 0 || slice.missing.includes("orders")) return null;
  const orders = formatCount(Math.round(slice.ordersToCome));
  return (
    <p className="ml-auto text-sm text-soft num">
      <b className="text-ink">
        The last {plural(slice.incompleteDays, "day")} {slice.incompleteDays === 1 ? "is" : "are"} not complete:
      </b>{" "}
      about {orders} orders are still to come{isCounted ? "; they are counted in." : "; “Late orders in” adds them."}
    </p>
  );
}

/** The two amounts that the chart shows as bars. */
function useBars() {
  const [state, set] = useState<[MetricKey, MetricKey]>(["cost", "revenue"]);
  const setState = (at: 0 | 1, key: MetricKey) => set(at === 0 ? [key, state[1]] : [state[0], key]);
  return { state, setState };
}

function labelOf(level: Level): string {
  return LEVEL_LABEL[level as keyof typeof LEVEL_LABEL]?.[0] ?? level.slice("field:".length);
}

function Charts({
  slice,
  days,
  chart,
  language,
  onChart,
  onOpen,
}: {
  slice: Slice;
  days: Slice | undefined;
  chart: (typeof CHARTS)[number];
  language: ReturnType<typeof useResultsView>["state"]["lang"];
  onChart: (chart: (typeof CHARTS)[number]) => void;
  onOpen: (line: SliceLine) => void;
}) {
  const { state, setState } = useBars();
  return (
    <section aria-label="Chart" className="rounded-lg border border-line bg-surface p-3">
      <div className="mb-2 flex items-center gap-2 text-sm">
        {CHARTS.map((choice) => (
          <button
            key={choice}
            type="button"
            aria-pressed={chart === choice}
            className={cx(
              "h-7 rounded-md px-2.5",
              chart === choice ? "bg-petrol-wash font-semibold" : "text-petrol hover:bg-raised",
            )}
            onClick={() => onChart(choice)}
          >
            {choice === "time" ? "Day by day" : `Spend against ${language === "return" ? "return" : "cost share"}`}
          </button>
        ))}
        {chart === "time" && (
          <span className="ml-auto flex items-center gap-2">
            {([0, 1] as const).map((at) => (
              <Select
                key={at}
                aria-label={at === 0 ? "First bars" : "Second bars"}
                className="h-7! w-36!"
                value={state[at]}
                onChange={(event) => setState(at, event.target.value as MetricKey)}
              >
                {BAR_METRICS.map((key) => (
                  <option key={key} value={key}>
                    {METRICS[key].label}
                  </option>
                ))}
              </Select>
            ))}
          </span>
        )}
      </div>
      {chart === "scatter" ? (
        <ReturnScatter lines={slice.lines} language={language} onOpen={onOpen} />
      ) : days?.from && days.to ? (
        <TimeChart
          days={days.lines}
          from={days.from}
          to={days.to}
          bars={state}
          missing={days.missingOfTotal}
          language={language}
          incompleteDays={slice.incompleteDays}
        />
      ) : (
        <Loading what="days" />
      )}
    </section>
  );
}

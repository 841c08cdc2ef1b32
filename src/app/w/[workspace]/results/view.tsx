"use client";

import { keepPreviousData } from "@tanstack/react-query";
import { Download, X } from "lucide-react";
import Link from "next/link";
import { useCallback, useRef, useState } from "react";
import { formatDay, parseDay } from "@/core/kit/days";
import type { MetricKey, Sums } from "@/core/kit/metrics";
import { REPORT_LABEL } from "@/core/results/reports/report-kinds";
import { isLevel, LEVEL_LABEL, LEVELS, type Level } from "@/core/results/levels";
import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { Button, buttonClasses } from "@/ui/button";
import { useRemembered } from "@/ui/use-remembered";
import { DayStrip, type StripDay } from "@/ui/day-strip";
import { TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead, WaitingRows } from "@/ui/page";
import { useKeys } from "@/ui/use-keys";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { ColumnChooser } from "../column-chooser";
import { KeepShelfDialog, type KeptAs } from "../keep-shelf-dialog";
import { SavedViews } from "../saved-views";
import { Charts, type Bars } from "./charts";
import { METRIC_FIELDS, ResultsControls } from "./controls";
import { goalText, Headlines } from "./headlines";
import { against, Incomplete, LeftOutSums, OnNoDay } from "./notes";
import { isPickable, ResultActions } from "./result-actions";
import { ResultsTable } from "./results-table";
import { ResultsTabs } from "./tabs";
import { MOST_PICKED, usePickedLines } from "./use-picked-lines";
import type { Where, Within } from "./asks";
import { useResultsView } from "./use-results";
import { WhereFilter } from "./where-filter";

/** What a line is about, as a shelf holds it; null for what is no item of the catalogue. */
function shelfOfLine(level: Level, { key, name }: SliceLine, set: string): KeptAs | null {
  if (level === "item") return { ids: [key] };
  const field = level === "shelf" ? `shelf:${set}` : level.slice("field:".length);
  const condition =
    key === "" ? { op: "empty" as const, value: "" } : { op: "is" as const, value: level === "shelf" ? name : key };
  return { where: { match: "all", of: [{ field, ...condition }] } };
}

/** The days of a window as a strip; what the report does not tell is left out of it. */
function stripOf({ from, to, lines, missingOfTotal: missing }: Slice): StripDay[] {
  const byDay = new Map(lines.map(({ key, sums }) => [key, sums]));
  const told = (name: "cost" | "revenue", sums: Sums | undefined) =>
    missing.includes(name) ? null : (sums?.[name] ?? 0);
  return Array.from({ length: parseDay(to!) - parseDay(from!) + 1 }, (_, i) => {
    const day = formatDay(parseDay(from!) + i);
    return { day, cost: told("cost", byDay.get(day)), revenue: told("revenue", byDay.get(day)) };
  });
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

/** What happened: by any level and split, against other days, with how sure it is; every number opens to its rows. */
export default function ResultsPage() {
  const { slug, goal, currency } = useWorkspace();
  const apiPath = useApiPath();
  const view = useResultsView();
  const { state, setState, columns, defaults, query, sort, paths } = view;
  const search = useRef<HTMLInputElement>(null);
  useOwnWindow(state.from || state.to ? `${state.from || "start"} to ${state.to || "end"}, chosen here` : null);
  const [isKeptOpen, setKeptOpen] = useRemembered("results.unfolded");
  const isUnfolded = isKeptOpen || state.chart !== "time";
  const setUnfolded = (open: boolean) => {
    setKeptOpen(open);
    if (!open) void setState({ chart: "time" });
  };
  const [bars, setBars] = useState<Bars>(["cost", "revenue"]);
  const openDays = (key: MetricKey) => {
    // The one that is drawn longest makes room; another press on what is open folds it.
    if (isUnfolded && bars[0] === key) return setUnfolded(false);
    setBars([key, bars[0] === key ? bars[1] : bars[0]]);
    void setState({ chart: "time" });
    setUnfolded(true);
  };
  const keep = { placeholderData: keepPreviousData };
  const slice = useApi<Slice>(apiPath(paths.lines), keep);
  const days = useApi<Slice>(apiPath(paths.days), keep);
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
  const picking = usePickedLines(level, slice.data, `results?${query}&limit=${MOST_PICKED}`);
  const { selected, select, selectAll } = picking;
  const [cursor, setCursor] = useState(-1);
  const lines = slice.data?.lines ?? [];
  useKeys({
    "/": () => search.current?.focus(),
    j: () => setCursor((at) => Math.min(lines.length - 1, at + 1)),
    k: () => setCursor((at) => Math.max(0, at - 1)),
    x: () => {
      const line = lines[cursor];
      if (!line || slice.isPlaceholderData || !isPickable(level)) return;
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
      : slice.isPending
        ? "Loading the results …"
        : "";
  const exportQuery = `${query}&metrics=${columns.join(",")}`;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
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
      {slice.isPending && <WaitingRows />}
      {slice.data && !slice.data.from && (
        <EmptyNote title="Results will stand here">
          Dispatch a structure and <Link href={`/w/${slug}/results/market`}>run some days of the test market</Link>, or{" "}
          <Link href={`/w/${slug}/results/reports`}>read in a report file</Link> of your own account.
        </EmptyNote>
      )}
      {slice.data?.from && (
        <>
          <Headlines
            now={slice.data.total}
            before={slice.data.before}
            missing={slice.data.missingOfTotal}
            language={state.lang}
            opened={isUnfolded && state.chart === "time" ? bars : []}
            onOpen={openDays}
          />
          {!isUnfolded && days.data?.from && days.data.to && (
            <button
              type="button"
              aria-expanded={false}
              aria-label="Unfold the days"
              title="Sales above, spend below, the marks are the goal; press to draw any two figures"
              className="shrink-0 rounded border border-transparent hover:border-line"
              onClick={() => setUnfolded(true)}
            >
              <DayStrip
                days={stripOf(days.data)}
                goal={goal}
                currency={currency}
                incompleteDays={slice.data.incompleteDays}
                className="h-10"
              />
            </button>
          )}
          {isUnfolded && (
            <>
              <Charts
                slice={slice.data}
                days={days.data}
                chart={state.chart}
                bars={bars}
                onBars={setBars}
                language={state.lang}
                onChart={(chart) => void setState({ chart })}
                onOpen={open}
              />
              {days.data && <OnNoDay all={slice.data} days={days.data} />}
              <LeftOutSums leftOut={slice.data.leftOut} />
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
            {isUnfolded && (
              <Button look="quiet" aria-expanded onClick={() => setUnfolded(false)}>
                Fold the drawing
              </Button>
            )}
            <Incomplete slice={slice.data} isCounted={state.complete} />
          </div>
          <div className="flex min-h-80 flex-1 flex-col gap-2">
            {selected.size > 0 && isPickable(level) && (
              <ResultActions
                level={level}
                lines={picking.lines}
                set={state.set}
                within={state.within.find(({ level: of }) => of === "campaign" || of === "adGroup") ?? null}
                onClear={() => select(new Set())}
              />
            )}
            <ResultsTable
              slice={slice.data}
              isOld={slice.isPlaceholderData}
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

function labelOf(level: Level): string {
  return LEVEL_LABEL[level as keyof typeof LEVEL_LABEL]?.[0] ?? level.slice("field:".length);
}

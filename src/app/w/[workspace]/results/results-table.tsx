"use client";

import { STOP_DAYS } from "@/core/budgets/stop-days";
import { clock } from "@/core/kit/clock";
import { LayoutList } from "lucide-react";
import { useRouter } from "next/navigation";
import { useMemo } from "react";
import { formatCount, formatMetric, formatOf, plural } from "@/core/kit/format";
import { METRICS, valueOf, type MetricKey, type Sums } from "@/core/kit/metrics";
import type { Level } from "@/core/results/levels";
import type { AccountView } from "@/server/planogram/workbench";
import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { BalanceBar, Gap } from "@/ui/balance-bar";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { EvidenceMark, evidenceTop, evidenceWords } from "@/ui/evidence-bar";
import { HeatMark } from "@/ui/heat";
import { ItemTag } from "@/ui/item-tag";
import { useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { MoneyCell } from "../money-cell";
import { useEdit } from "../use-edit";
import { changeText } from "./headlines";

/** The interval and goal of a line as a small drawing, with its words for those who can't see it. */
function EvidenceCell({ evidence, goal, top }: { evidence: SliceLine["evidence"]; goal: number; top: number }) {
  if (!evidence) return <span className="text-soft">–</span>;
  const chance = `chance of the goal ${Math.round(evidence.chance * 100)} %`;
  return (
    <span className="flex items-center gap-2" title={`${evidenceWords({ ...evidence, goal })}; ${chance}`}>
      <EvidenceMark {...evidence} goal={goal} top={top} className="w-18 shrink-0" />
      <HeatMark heat={evidence.heat} />
    </span>
  );
}

const PART = "\u001f";

function rowKey({ key, splitKey }: SliceLine): string {
  return `${key}${PART}${splitKey}`;
}

/** The lines of a slice with the metrics chosen; each line opens to what is behind it. */
export function ResultsTable({
  slice,
  isOld,
  level,
  columns,
  sort,
  onSort,
  onOpen,
  onShelf,
  selected,
  onSelect,
  onSelectAll,
  cursor,
  onCursor,
}: {
  slice: Slice;
  /** Whether it is that of what was looked at before. */
  isOld: boolean;
  level: Level;
  columns: MetricKey[];
  sort: string;
  onSort: (sort: string) => void;
  onOpen: (line: SliceLine) => void;
  /** Keeps what a line is about as a shelf; left out where it is about no items of the catalogue. */
  onShelf?: ((line: SliceLine) => void) | undefined;
  /** Keys of the lines that are picked, and what picks others; left out where nothing can be done with them. */
  selected?: ReadonlySet<string> | undefined;
  onSelect?: ((keys: ReadonlySet<string>) => void) | undefined;
  /** Picks all that is found, or lets all go. */
  onSelectAll: () => void;
  /** The line that the keyboard stands on. */
  cursor: number;
  onCursor: (index: number) => void;
}) {
  const { currency, goal, slug } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const router = useRouter();
  const account = useApi<AccountView>(level === "campaign" ? apiPath(`account?days=${days}`) : null);
  const edit = useEdit();
  const { lines, splitLabel, levelLabel, missing } = slice;
  const scale = Math.max(0.01, ...lines.flatMap((line) => [line.spendShare ?? 0, line.salesShare ?? 0]));
  const top = evidenceTop(
    lines.flatMap(({ evidence }) => (evidence ? [evidence.high] : [])),
    goal,
  );
  const made = useMemo((): TableColumn<SliceLine>[] => {
    const budgets = new Map(account.data?.lines.map((line) => [line.key, line.dailyBudget]));
    return [
      {
        key: "name",
        label: levelLabel[0],
        width: "1fr",
        sort: "name",
        cell: (line) => (
          <span className="flex min-w-0 items-center gap-2">
            {level === "item" ? (
              <ItemTag id={line.key} title={line.name} image={line.image ?? ""} />
            ) : (
              <button
                type="button"
                className="min-w-0 truncate text-left hover:underline"
                onClick={(event) => {
                  event.stopPropagation();
                  onOpen(line);
                }}
              >
                {line.name}
              </button>
            )}
            {line.placeKind === "listing" && <span className="shrink-0 text-xs text-soft">page</span>}
            {onShelf && (
              <button
                type="button"
                aria-label={`Put ${line.name} on a shelf`}
                title="Put on a shelf"
                className="ml-auto shrink-0 rounded p-1 text-soft hover:bg-raised hover:text-ink"
                onClick={(event) => {
                  event.stopPropagation();
                  onShelf(line);
                }}
              >
                <LayoutList aria-hidden className="size-3.5" />
              </button>
            )}
            {line.dryDays !== null && (
              <span
                className="shrink-0 text-xs text-ember num"
                title={`The budget ran out on ${line.dryDays} of the last ${STOP_DAYS} days, at about ${clock(line.dryHour ?? 0)}`}
              >
                dry on {plural(line.dryDays, "day")}, {clock(line.dryHour ?? 0)}
              </span>
            )}
          </span>
        ),
      },
      ...(splitLabel
        ? [{ key: "split", label: splitLabel[0], width: 110, cell: (line: SliceLine) => line.splitName }]
        : []),
      ...(level === "campaign" && !splitLabel
        ? [
            {
              key: "budget",
              label: "Budget a day",
              width: 96,
              align: "right" as const,
              cell: (line: SliceLine) => {
                const budget = budgets.get(line.key);
                return (
                  budget != null && (
                    // Editing in the row must not open what is behind it.
                    <span onClick={(event) => event.stopPropagation()}>
                      <MoneyCell
                        label={`Daily budget of ${line.name}`}
                        value={budget}
                        onSave={(mills) => edit({ action: "budget", keys: [line.key], op: { how: "set", mills } })}
                      />
                    </span>
                  )
                );
              },
            },
          ]
        : []),
      ...columns.map((key): TableColumn<SliceLine> => {
        const { label, about } = METRICS[key];
        const of = (sums: Sums) => valueOf(key, sums, missing);
        const isMissing = METRICS[key].needs.some((need) => missing.includes(need));
        return {
          key,
          label,
          about,
          // The longest word at the head of a column needs more.
          width: key === "impressions" ? 104 : 78,
          align: "right",
          sort: key,
          cell: (line) => (
            <span
              title={
                isMissing
                  ? "Not reported"
                  : line.before
                    ? `${formatMetric(key, of(line.before), currency)} compared`
                    : undefined
              }
            >
              <span className="block text-[13px] leading-[14px]">{formatOf(key, line.sums, missing, currency)}</span>
              {line.before && (
                <span className="block text-[11px] leading-3 text-soft">
                  {changeText(of(line.sums), of(line.before), "new")}
                </span>
              )}
            </span>
          ),
        };
      }),
      {
        key: "evidence",
        label: "How sure",
        about: "The return that is likely, 80 times in 100 within the band; the mark is the goal.",
        width: 162,
        sort: "chance",
        cell: (line) => <EvidenceCell evidence={line.evidence} goal={goal} top={top} />,
      },
      // Beside a split and many figures there is no room for bars; the gap says the same in a number.
      ...(splitLabel && columns.length > 4
        ? []
        : [
            {
              key: "balance",
              label: "Spend | sales",
              about: "Share of the spend left, of the sales right",
              width: 140,
              cell: (line: SliceLine) => (
                <BalanceBar spendShare={line.spendShare} salesShare={line.salesShare} scale={scale} isLow />
              ),
            },
          ]),
      { key: "gap", label: "Gap", width: 70, align: "right", sort: "gap", cell: (line) => <Gap gap={line.gap} /> },
    ];
  }, [
    account.data,
    columns,
    currency,
    edit,
    goal,
    level,
    levelLabel,
    missing,
    onOpen,
    onShelf,
    scale,
    splitLabel,
    top,
  ]);
  return (
    <>
      <DataTable
        label={levelLabel[1]}
        columns={made}
        total={lines.length}
        rowHeight={30}
        isOld={isOld}
        rowAt={(index) => lines[index]}
        keyOf={rowKey}
        sort={sort}
        onSort={(next) => onSort(next || "-cost")}
        cursor={cursor}
        onCursor={onCursor}
        {...(selected && onSelect
          ? {
              selected: new Set(lines.filter(({ key }) => selected.has(key)).map(rowKey)),
              onToggle: (row: string) => {
                const next = new Set(selected);
                const key = row.split(PART)[0]!;
                if (!next.delete(key)) next.add(key);
                onSelect(next);
              },
              onToggleAll: onSelectAll,
              isAllSelected: selected.size > 0 && lines.every(({ key }) => selected.has(key)),
            }
          : {})}
        onOpen={
          level === "item"
            ? (line) => router.push(`/w/${slug}/catalogue?item=${encodeURIComponent(line.key)}&days=${days}`)
            : onOpen
        }
        empty={<p className="p-4 text-sm text-soft">Nothing here in these days.</p>}
      />
      <TotalRow slice={slice} columns={columns} />
    </>
  );
}

function TotalRow({ slice, columns }: { slice: Slice; columns: MetricKey[] }) {
  const { currency } = useWorkspace();
  return (
    <p className="flex flex-wrap gap-x-5 text-sm num">
      <b>
        {slice.count > slice.lines.length
          ? `First ${formatCount(slice.lines.length)} of ${plural(slice.count, "line")}; everything:`
          : `${plural(slice.count, "line")}; everything:`}
      </b>
      {columns.map((key) => (
        <span key={key}>
          <span className="text-soft">{METRICS[key].label}</span>{" "}
          {formatOf(key, slice.total, slice.missingOfTotal, currency)}
        </span>
      ))}
      {slice.found && (
        <span className="basis-full">
          <b>{plural(slice.count, "line")} found:</b>{" "}
          {columns.map((key) => (
            <span key={key} className="mr-5">
              <span className="text-soft">{METRICS[key].label}</span>{" "}
              {formatOf(key, slice.found!, slice.missing, currency)}
            </span>
          ))}
        </span>
      )}
    </p>
  );
}

"use client";

import { useState } from "react";
import { CHAPTERS } from "@/core/stocktake/chapters";
import type { Spelling } from "@/core/stocktake/phrase";
import { cellText, type Cell, type Column, type Table } from "@/core/stocktake/table";
import type { ChapterView } from "@/server/stocktake/stocktakes";
import { BalanceBar, Gap } from "@/ui/balance-bar";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { formatCount } from "@/core/kit/format";
import { Findings } from "./findings";
import { Remark } from "./remark";

/** A chapter: what belongs to it of what was found, its table, and what somebody wrote into it. */
export function Chapter({
  stocktake,
  chapter,
  remark,
  dismissed,
  scale,
  spelling,
}: {
  stocktake: number;
  chapter: ChapterView;
  remark: string;
  dismissed: ReadonlySet<string>;
  scale: number;
  spelling: Spelling;
}) {
  const { title, about } = CHAPTERS[chapter.key];
  const open = chapter.findings.filter(({ key }) => !dismissed.has(key));
  return (
    <section id={chapter.key} className="scroll-mt-2 rounded-lg border border-line bg-surface px-4 py-3">
      <div className="flex items-baseline gap-3">
        <h2 className="font-display text-lg font-semibold">{title}</h2>
        <p className="min-w-0 flex-1 text-sm text-soft">{about}</p>
        <Remark stocktake={stocktake} chapter={chapter.key} text={remark} title={title} />
      </div>
      {remark && <p className="my-2 max-w-[78ch] border-l-2 border-line pl-3 whitespace-pre-wrap">{remark}</p>}
      {open.length > 0 && <Findings findings={open} scale={scale} spelling={spelling} />}
      {chapter.table ? (
        <ChapterTable title={title} table={chapter.table} spelling={spelling} />
      ) : (
        <p className="py-1 text-sm text-soft">{chapter.lacks}</p>
      )}
    </section>
  );
}

/** Lines shown before the rest is asked for. */
const FOLDED = 10;

function ChapterTable({ title, table, spelling }: { title: string; table: Table; spelling: Spelling }) {
  const [sort, setSort] = useState<{ at: number; isDown: boolean } | null>(null);
  const [isWhole, setWhole] = useState(false);
  const { columns, rest, total } = table;
  const hasBars = columns[3]?.kind === "gap";
  const ordered = sort ? sorted(table, sort.at, sort.isDown, spelling) : table.rows;
  const shown = isWhole ? ordered : ordered.slice(0, FOLDED);
  const most = Math.max(
    0.0001,
    ...table.rows.flatMap((row) => row.slice(1, 3).filter((cell) => typeof cell === "number")),
  );
  const press = (at: number) =>
    setSort((now) => ({ at, isDown: now?.at === at ? !now.isDown : columns[at]!.kind !== "name" }));
  return (
    <div className="mt-1 overflow-x-auto">
      <table className="w-full text-[13px] num" aria-label={title}>
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            {columns.map(({ label, of }, at) => {
              if (hasBars && at === 2) return null;
              const isBars = hasBars && at === 1;
              const direction = sort?.at === at ? (sort.isDown ? "descending" : "ascending") : undefined;
              return (
                <th
                  key={label}
                  scope="col"
                  aria-sort={direction}
                  className={cx("py-1 pr-3 align-bottom font-semibold", at > 0 && !isBars && "text-right")}
                >
                  <button type="button" className="hover:text-ink" onClick={() => press(at)}>
                    {isBars ? "Spend | sales" : label}
                    {direction && <span aria-hidden> {sort!.isDown ? "↓" : "↑"}</span>}
                  </button>
                  {of && (
                    <span className="block font-normal">{isBars ? `of ${of} and ${columns[2]!.of}` : `of ${of}`}</span>
                  )}
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {shown.map((row, at) => (
            <Line key={at} cells={row} columns={columns} hasBars={hasBars} most={most} spelling={spelling} />
          ))}
          {rest && (isWhole || ordered.length <= FOLDED) && (
            <Line
              cells={rest.cells}
              first={`${formatCount(rest.count)} more`}
              columns={columns}
              hasBars={hasBars}
              most={most}
              spelling={spelling}
            />
          )}
          {total && (
            <Line
              cells={total}
              first="Everything"
              isSum
              columns={columns}
              hasBars={hasBars}
              most={most}
              spelling={spelling}
            />
          )}
        </tbody>
      </table>
      {ordered.length > FOLDED && (
        <Button look="quiet" className="mt-1" onClick={() => setWhole(!isWhole)}>
          {isWhole
            ? `Show the first ${FOLDED} of ${title.toLowerCase()}`
            : `Show all ${ordered.length} of ${title.toLowerCase()}`}
        </Button>
      )}
    </div>
  );
}

function Line({
  cells,
  first,
  isSum = false,
  columns,
  hasBars,
  most,
  spelling,
}: {
  cells: readonly Cell[];
  first?: string;
  isSum?: boolean;
  columns: readonly Column[];
  hasBars: boolean;
  most: number;
  spelling: Spelling;
}) {
  const share = (cell: Cell | undefined) => (typeof cell === "number" ? cell : null);
  return (
    <tr className={cx("border-b border-line last:border-0", isSum && "font-semibold")}>
      {cells.map((cell, at) => {
        if (hasBars && at === 2) return null;
        const column = columns[at]!;
        if (hasBars && at === 1) {
          return (
            <td key={at} className="w-44 py-0.5 pr-3">
              {!isSum && <BalanceBar spendShare={share(cell)} salesShare={share(cells[2])} scale={most} isLow />}
            </td>
          );
        }
        return (
          <td key={at} className={cx("py-1 pr-3", at === 0 ? "max-w-72 truncate" : "text-right whitespace-nowrap")}>
            {column.kind === "gap" && typeof cell === "number" ? (
              <Gap gap={cell} />
            ) : at === 0 && first ? (
              first
            ) : (
              cellText(cell, column, spelling)
            )}
          </td>
        );
      })}
    </tr>
  );
}

/** Rows by a column; what has no value comes last, whichever way the rest goes. */
function sorted({ rows, columns }: Table, at: number, isDown: boolean, spelling: Spelling): Cell[][] {
  const value = (row: Cell[]): number | string | null => {
    const cell = row[at] ?? null;
    if (cell === null || typeof cell === "number") return cell;
    return "mean" in cell ? cell.mean : cellText(cell, columns[at]!, spelling).toLowerCase();
  };
  return [...rows].sort((a, b) => {
    const [x, y] = [value(a), value(b)];
    if (x === null || y === null) return x === y ? 0 : x === null ? 1 : -1;
    return (x < y ? -1 : x > y ? 1 : 0) * (isDown ? -1 : 1);
  });
}

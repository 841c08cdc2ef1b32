"use client";

import { parseAsStringLiteral, parseAsString, useQueryStates } from "nuqs";
import { useState } from "react";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { OverlapCell } from "@/core/shelves/figures";
import { blankSet } from "@/core/shelves/ready-made";
import type { ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import type { Overlap } from "@/server/shelves/overlap";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Select } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { KeepShelfDialog } from "../../keep-shelf-dialog";
import { Builder } from "../builder";
import { ShelvesTabs } from "../tabs";
import { useShelfSets } from "../use-shelf-fields";

const SHOWN = ["items", "spend", "sales"] as const;

/** Two sets laid over each other: which items both claim, and who gets them. */
export default function ClaimsPage() {
  const apiPath = useApiPath();
  const sets = useShelfSets();
  const [state, setState] = useQueryStates({
    first: parseAsString,
    second: parseAsString,
    show: parseAsStringLiteral(SHOWN).withDefault("items"),
  });
  const [cell, setCell] = useState<{ row: number; column: number } | null>(null);
  const [settled, setSettled] = useState<ShelfSet | null>(null);
  const keys = sets.data?.map(({ definition: { key } }) => key) ?? [];
  const first = state.first ?? keys[0];
  const second = state.second ?? keys.find((key) => key !== first);
  const over = useApi<Overlap>(first && second ? apiPath(`shelf-overlap?first=${first}&second=${second}`) : null);
  useOwnWindow(over.data ? `The first set’s own: last ${over.data.days} days` : null);
  const { goal } = useWorkspace();
  const nameOf = (key: string | undefined) =>
    sets.data?.find(({ definition }) => definition.key === key)?.definition.name ?? "";
  if (settled) return <Builder definition={settled} isNew onClose={() => setSettled(null)} />;
  const choose = (label: string, value: string | undefined, key: "first" | "second") => (
    <Select
      aria-label={label}
      className="w-52!"
      value={value ?? ""}
      onChange={(event) => void setState({ [key]: event.target.value })}
    >
      {sets.data?.map(({ definition: { key: of, name } }) => (
        <option key={of} value={of}>
          {name}
        </option>
      ))}
    </Select>
  );
  const isEmpty = !over.data?.cells.flat().some(({ items }) => items > 0);
  const settle = () =>
    over.data &&
    first &&
    second &&
    setSettled(claimSet(over.data, [first, second], [nameOf(first), nameOf(second)], goal, keys));
  return (
    <div className="space-y-3">
      <PageHead title="Claims" facts="Where two sets are meant for different campaigns, an item can stand in both">
        {choose("First set", first, "first")}
        <span className="text-soft">×</span>
        {choose("Second set", second, "second")}
        <Button look="ember" disabled={isEmpty || first === second} onClick={settle}>
          Settle who gets them
        </Button>
      </PageHead>
      <ShelvesTabs />
      {keys.length === 1 && (
        <p className="rounded-md bg-petrol-wash px-3 py-2">
          There is only one set yet; make a second one to lay over it.
        </p>
      )}
      {over.error && <ErrorNote error={over.error.failure} />}
      {over.isPending && first && second && <Loading what="the overlap" />}
      {over.data && isEmpty && (
        <EmptyNote title="Two sets will be laid over each other here">
          Upload a feed first; then items stand on shelves.
        </EmptyNote>
      )}
      {over.data && !isEmpty && (
        <>
          <div className="flex items-center gap-1 text-sm" role="group" aria-label="Figure">
            {SHOWN.map((show) => (
              <Button
                key={show}
                look={state.show === show ? "plain" : "quiet"}
                aria-pressed={state.show === show}
                onClick={() => void setState({ show })}
              >
                {show}
              </Button>
            ))}
            <span className="ml-2 text-soft">
              Rows: {nameOf(first)}. Columns: {nameOf(second)}. A cell can be kept as a shelf.
            </span>
          </div>
          <Matrix over={over.data} show={state.show} onCell={(row, column) => setCell({ row, column })} />
        </>
      )}
      {cell && over.data && first && second && (
        <KeepShelfDialog
          suggestion={`${over.data.rows[cell.row]!.name}, ${over.data.columns[cell.column]!.name}`.slice(0, 40)}
          what={{
            where: {
              match: "all",
              of: [
                { field: `shelf:${first}`, op: "is", value: over.data.rows[cell.row]!.value },
                { field: `shelf:${second}`, op: "is", value: over.data.columns[cell.column]!.value },
              ],
            },
          }}
          count={over.data.cells[cell.row]![cell.column]!.items}
          not={[first, second]}
          onClose={() => setCell(null)}
        />
      )}
    </div>
  );
}

/** One set of the shelves of two, those of the first before those of the second: their order says who gets what both claim. */
function claimSet(
  { rows, columns }: Overlap,
  keys: [string, string],
  names: [string, string],
  goal: number,
  taken: string[],
): ShelfSet {
  const rules = [rows, columns].flatMap((shelves, i) =>
    // The last shelf of a set takes what is left, and claims nothing.
    shelves.slice(0, -1).map(({ key, name, value }): ShelfRule => ({
      ...{
        kind: "rule",
        key: `${i + 1}-${key}`.slice(0, 40),
        name: rows.some((other) => i === 1 && other.name === name) ? `${name} (2)`.slice(0, 40) : name,
      },
      ...{ heat: null, goal: null, note: "", lookAgain: null },
      where: { match: "all", of: [{ field: `shelf:${keys[i]}`, op: "is", value }] },
    })),
  );
  let key = "claims";
  for (let no = 2; taken.includes(key); no++) key = `claims-${no}`;
  const set = blankSet(key, `${names[0]}, then ${names[1]}`.slice(0, 60), goal, rules);
  return {
    ...set,
    about: "The order of the shelves says who gets an item that two of them claim. Move them to see who moves.",
  };
}

function Matrix({
  over,
  show,
  onCell,
}: {
  over: Overlap;
  show: (typeof SHOWN)[number];
  onCell: (row: number, column: number) => void;
}) {
  const { currency } = useWorkspace();
  const value = (cell: OverlapCell) => (show === "items" ? cell.items : show === "spend" ? cell.cost : cell.revenue);
  const all = over.cells.flat().reduce((sum, cell) => sum + value(cell), 0);
  const most = Math.max(1, ...over.cells.flat().map(value));
  const text = (amount: number) => (show === "items" ? formatCount(amount) : formatMoney(amount, currency));
  const sumOf = (cells: OverlapCell[]) => text(cells.reduce((sum, cell) => sum + value(cell), 0));
  return (
    <div className="overflow-x-auto rounded-lg border border-line bg-surface">
      <table className="w-full text-sm num" aria-label="Overlap">
        <thead>
          <tr className="border-b border-line text-right text-xs text-soft">
            <td />
            {over.columns.map(({ key, name }) => (
              <th key={key} scope="col" className="px-2 py-1.5 font-semibold">
                {name}
              </th>
            ))}
            <th className="px-2 font-normal">All</th>
          </tr>
        </thead>
        <tbody>
          {over.rows.map(({ key, name }, row) => (
            <tr key={key} className="border-b border-line/60">
              <th scope="row" className="px-3 py-1 text-left font-semibold">
                {name}
              </th>
              {over.cells[row]!.map((cell, column) => (
                <td key={over.columns[column]!.key} className="p-0.5">
                  <button
                    type="button"
                    disabled={cell.items === 0}
                    title={`Keep as a shelf: ${plural(cell.items, "item")} · spend ${formatMoney(cell.cost, currency)} · ad sales ${formatMoney(cell.revenue, currency)} · store sales ${formatMoney(cell.storeRevenue, currency)}`}
                    onClick={() => onCell(row, column)}
                    className={cx(
                      "relative w-full overflow-hidden rounded px-2 py-1 text-right",
                      cell.items > 0 ? "hover:outline hover:outline-petrol" : "text-soft/60",
                    )}
                  >
                    <span
                      aria-hidden
                      className="absolute inset-y-0 right-0 bg-petrol/15"
                      style={{ width: `${(100 * value(cell)) / most}%` }}
                    />
                    {cell.items === 0 ? (
                      <span className="relative">–</span>
                    ) : (
                      <span className="relative">
                        <span className="sr-only">
                          {name} × {over.columns[column]!.name}:{" "}
                        </span>
                        <b>{plural(cell.items, "item")}</b>
                        <span className="block text-[11px] text-soft">
                          spend {formatMoney(cell.cost, currency)}
                          <span className="block">sales {formatMoney(cell.revenue, currency)}</span>
                          {all > 0 && `${formatShare(value(cell) / all)} of ${show}`}
                        </span>
                      </span>
                    )}
                  </button>
                </td>
              ))}
              <td className="px-2 text-right text-soft">{sumOf(over.cells[row]!)}</td>
            </tr>
          ))}
          <tr>
            <th scope="row" className="px-3 py-1.5 text-left font-normal text-soft">
              All
            </th>
            {over.columns.map(({ key }, column) => (
              <td key={key} className="px-2.5 text-right text-soft">
                {sumOf(over.cells.map((cells) => cells[column]!))}
              </td>
            ))}
            <td className="px-2 text-right">{text(all)}</td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}

"use client";

import { Copy, Download } from "lucide-react";
import Link from "next/link";
import { useQueryStates } from "nuqs";
import { toast } from "sonner";
import { dayLabel, parseDay } from "@/core/kit/days";
import { toTsv } from "@/core/dispatch/cells";
import { formatCount, plural } from "@/core/kit/format";
import type { Movements } from "@/server/shelves/history";
import { Button, buttonClasses } from "@/ui/button";
import { DayInput } from "@/ui/day-input";
import { Select } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { metricText } from "../shelf-words";
import { ShelvesTabs } from "../tabs";
import { useShelfSets } from "../use-shelf-fields";
import { movementsPath, movementsQuery, movementsState } from "./asks";

/** Who came to a shelf and who left it between two days, and why. */
export default function MovementsPage() {
  const { slug, currency } = useWorkspace();
  const apiPath = useApiPath();
  const [state, setState] = useQueryStates(movementsState);
  const sets = useShelfSets();
  const moves = useApi<Movements>(apiPath(movementsPath(state)), {
    placeholderData: (before) => before,
  });
  const data = moves.data;
  useOwnWindow(data ? `${dayLabel(parseDay(data.from))} to ${dayLabel(parseDay(data.to))}` : null);
  const copy = async () => {
    if (!data) return;
    const rows = data.moves.map((move) => [move.id, move.title, move.from, move.to, move.why]);
    await navigator.clipboard.writeText(toTsv(["id", "title", "from", "to", "why"], rows));
    toast.success(`${plural(data.moves.length, "line")} copied`);
  };
  return (
    <div className="space-y-3">
      <PageHead
        title="Movements"
        facts={
          data &&
          data.first !== null &&
          `${plural(data.total, "item")} stand elsewhere than on ${dayLabel(parseDay(data.from))}`
        }
      >
        <Select
          aria-label="Shelf set"
          className="w-52!"
          value={state.set}
          onChange={(event) => void setState({ set: event.target.value, shelf: null })}
        >
          {sets.data?.map(({ definition: { key, name } }) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Select>
        <label className="flex items-center gap-1 text-sm">
          from the evening of
          <DayInput
            className="w-36!"
            value={state.from ?? data?.from ?? ""}
            min={data?.first ?? undefined}
            onChange={(text) => void setState({ from: text || null })}
          />
        </label>
        <label className="flex items-center gap-1 text-sm">
          to
          <DayInput
            className="w-36!"
            value={state.to ?? data?.to ?? ""}
            onChange={(text) => void setState({ to: text || null })}
          />
        </label>
      </PageHead>
      <ShelvesTabs />
      {moves.error && <ErrorNote error={moves.error.failure} />}
      {moves.isPending && <Loading what="movements" />}
      {data && data.first === null && (
        <EmptyNote title="Who moves between shelves will stand here">
          Nothing was put on the shelves of this set yet; a reading, report files or days of the test market do.
        </EmptyNote>
      )}
      {data && data.first !== null && (
        <>
          <div className="flex flex-wrap items-center gap-1.5 text-sm num">
            {data.byShelf.map(({ key, name, came, left }) => (
              <button
                key={key}
                type="button"
                aria-pressed={state.shelf === key}
                onClick={() => void setState({ shelf: state.shelf === key ? null : key })}
                className={`rounded-md border px-2 py-1 ${state.shelf === key ? "border-petrol bg-petrol-wash" : "border-line hover:bg-raised"}`}
              >
                <b>{name}</b> +{formatCount(came)} −{formatCount(left)}
              </button>
            ))}
            <span className="ml-auto flex gap-1">
              <Button look="quiet" disabled={data.moves.length === 0} onClick={() => void copy().catch(toastError)}>
                <Copy aria-hidden className="size-3.5" /> Copy
              </Button>
              <a
                className={buttonClasses("quiet")}
                href={`/api/v1/${slug}/shelf-sets/${state.set}/moves.csv?${movementsQuery(state)}`}
                download
              >
                <Download aria-hidden className="size-3.5" /> CSV
              </a>
            </span>
          </div>
          {data.first && state.from && state.from < data.first && (
            <p className="rounded-md bg-petrol-wash px-3 py-2 text-sm">
              This set was first computed for {data.first}; before that nothing is known, so everything counts as come.
            </p>
          )}
          <MovesTable data={data} slug={slug} currency={currency} />
        </>
      )}
    </div>
  );
}

function MovesTable({ data, slug, currency }: { data: Movements; slug: string; currency: string }) {
  if (data.moves.length === 0) {
    return (
      <p className="rounded-lg border border-line bg-surface p-6 text-center text-soft">
        Nobody moved between these days. Shelves follow readings, reports and market days by themselves.
      </p>
    );
  }
  return (
    <div className="rounded-lg border border-line bg-surface">
      <table className="w-full text-sm" aria-label="Movements">
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="px-3 py-1.5 font-normal">Item</th>
            <th className="px-2 font-normal">From</th>
            <th className="px-2 font-normal">To</th>
            <th className="px-2 text-right font-normal">{data.metric?.label ?? ""}</th>
            <th className="px-2 font-normal">Why</th>
          </tr>
        </thead>
        <tbody>
          {data.moves.map((move) => (
            <tr key={move.id} className="border-b border-line/60">
              <td className="px-3 py-1">
                <Link
                  className="hover:underline"
                  href={`/w/${slug}/catalogue?q=${encodeURIComponent(move.id)}&item=${encodeURIComponent(move.id)}`}
                >
                  {move.title ?? <span className="text-soft">left the catalogue</span>}
                </Link>{" "}
                <span className="font-mono text-xs text-soft">{move.id}</span>
              </td>
              <td className="px-2 text-soft">{move.from ?? "–"}</td>
              <td className="px-2 font-semibold">{move.to ?? "–"}</td>
              <td className="px-2 text-right num">
                {move.value !== null && data.metric ? metricText(data.metric.name, move.value, currency) : "–"}
              </td>
              <td className="px-2 text-soft">{move.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {data.total > data.moves.length && (
        <p className="px-3 py-2 text-sm text-soft num">
          {formatCount(data.moves.length)} of {formatCount(data.total)} shown; the file has them all.
        </p>
      )}
    </div>
  );
}

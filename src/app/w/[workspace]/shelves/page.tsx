"use client";

import { format } from "date-fns";
import { Download } from "lucide-react";
import Link from "next/link";
import { parseAsBoolean, parseAsString, useQueryStates } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { dayLabel, parseDay } from "@/core/kit/days";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS, type Sums } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import { STARTING_SET } from "@/core/shelves/ready-made";
import { type ShelfSet } from "@/core/shelves/shelf-set";
import type { ShelfSetPage } from "@/server/shelves/blocks";
import { BalanceBar, Gap } from "@/ui/balance-bar";
import { Button, buttonClasses } from "@/ui/button";
import { Select } from "@/ui/field";
import { HeatGlyph } from "@/ui/heat";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { Plank } from "@/ui/plank";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { EditCuts } from "./edit-cuts";

/** Where the money stands, and whether it is warm. */
export default function ShelvesPage() {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [state, setState] = useQueryStates({
    set: parseAsString.withDefault(STARTING_SET),
    edit: parseAsBoolean.withDefault(false),
  });
  const [preview, setPreview] = useState<ShelfSetPage | null>(null);
  const [busy, setBusy] = useState(false);
  const sets = useApi<{ definition: ShelfSet }[]>(apiPath("shelf-sets"));
  const page = useApi<ShelfSetPage>(apiPath(`shelf-sets/${state.set}`));
  const ownDays = page.data?.definition.windowDays;
  useOwnWindow(ownDays === undefined ? null : `The set’s own: last ${ownDays} days`);
  if (page.error) return <ErrorNote error={page.error.failure} />;
  if (!page.data) return <Loading what="shelves" />;
  const shown = state.edit && preview ? preview : page.data;
  const { definition, items, from, to, computedAt } = shown;
  const recompute = async () => {
    setBusy(true);
    try {
      const { moved } = await apiSend<{ moved: number }>(apiPath(`shelf-sets/${state.set}/recompute`));
      toast.success(
        moved === 0 ? "Recomputed: every item stays where it was." : `Recomputed: ${plural(moved, "item")} moved.`,
      );
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };

  return (
    <div className="space-y-4">
      <PageHead
        title={definition.name}
        facts={
          from
            ? `${formatCount(items)} items · goal ${definition.goal} · ${definition.windowDays} days to ${dayLabel(parseDay(to!))}`
            : `${formatCount(items)} items`
        }
      >
        {!state.edit && (
          <>
            <Select
              aria-label="Shelf set"
              className="w-44!"
              value={state.set}
              onChange={(event) => void setState({ set: event.target.value })}
            >
              {(sets.data ?? [{ definition }]).map(({ definition: { key, name } }) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </Select>
            <a className={buttonClasses("plain")} href={`/api/v1/${slug}/shelf-sets/${state.set}/labels.csv`} download>
              <Download aria-hidden className="size-3.5" /> Labels
            </a>
            <Button
              disabled={busy || !from}
              title={computedAt ? `Computed ${format(computedAt, "d MMM HH:mm")}` : undefined}
              onClick={() => void recompute()}
            >
              Recompute
            </Button>
            <Button onClick={() => void setState({ edit: true })}>Edit cuts</Button>
            <Link className={buttonClasses("ember")} href={`/w/${slug}/planogram?plan=new&by=shelf:${state.set}`}>
              Plan campaigns from this set
            </Link>
          </>
        )}
      </PageHead>
      {state.edit && (
        <EditCuts
          definition={page.data.definition}
          onPreview={setPreview}
          onClose={() => {
            setPreview(null);
            void setState({ edit: false });
          }}
        />
      )}
      {items === 0 ? (
        <EmptyNote title="Items will stand on shelves here">
          Upload a feed first.{" "}
          <Link className="text-petrol underline" href={`/w/${slug}/catalogue?upload=true`}>
            Go to the catalogue
          </Link>
        </EmptyNote>
      ) : (
        <>
          {!from && (
            <p className="rounded-md bg-petrol-wash px-3 py-2">
              No results yet, so every item is unread. Plan and dispatch a structure, run some days, then recompute.
            </p>
          )}
          <WentOnNote page={shown} />
          <ShelfList page={shown} set={state.set} />
        </>
      )}
    </div>
  );
}

/** Says of a set by raw return how much of it was luck: what its outer tiers went on to earn. */
function WentOnNote({ page: { wentOn, shelves, definition } }: { page: ShelfSetPage }) {
  if (!wentOn) return null;
  const outer = [0, definition.tiers.length - 1].flatMap((at) => {
    const [name, { before, after }] = [shelves[at]!.name, wentOn.shelves[at]!];
    const [was, is] = [before, after].map((sums: Sums) => METRICS.roas.of(sums));
    return was == null || is == null ? [] : [`“${name}” had ${was.toFixed(1)} and went on to ${is.toFixed(1)}`];
  });
  if (outer.length === 0) return null;
  return (
    <p className="rounded-md bg-petrol-wash px-3 py-2">
      <b>Part of a raw return is luck.</b> Sorted by {plural(wentOn.days, "day")} and looked at over the days after:{" "}
      {outer.join("; ")}. “Return by chance” allows for that.
    </p>
  );
}

function ShelfList({ page, set }: { page: ShelfSetPage; set: string }) {
  const { slug, currency } = useWorkspace();
  const { definition } = page;
  const widest = Math.max(...page.shelves.map((shelf) => shelf.sums.cost));
  const tallest = Math.max(1, ...page.shelves.flatMap((shelf) => shelf.blocks.map((block) => block.revenue)));
  const scale = Math.max(0.01, ...page.shelves.flatMap((shelf) => [shelf.spendShare ?? 0, shelf.salesShare ?? 0]));
  const money = (amount: number) => formatMoney(amount, currency);
  const cutText = (i: number): string => {
    const tier = definition.tiers[i];
    if (!tier) {
      const few = `under ${definition.leastClicks} clicks`;
      return definition.measure === "probability"
        ? `${few}, or too few to expect an order`
        : `${few} and ${plural(definition.leastOrders, "order")}`;
    }
    // A raw tier's name is its cut already.
    if (definition.measure === "threshold") return "";
    const above = definition.tiers[i - 1]?.least ?? null;
    const value = (n: number) => `${Math.round(n * 100)} % chance`;
    return tier.least === null ? `below ${value(above ?? 0)}` : `${value(tier.least)} and up`;
  };
  return (
    <div role="table" aria-label="Shelves">
      <div
        role="row"
        className="grid grid-cols-[176px_minmax(0,1fr)_230px_184px_64px] items-end gap-4 pb-1 text-xs text-soft"
      >
        <span role="columnheader">Shelf</span>
        <span role="columnheader">Items: width by spend, height by sales (root scale)</span>
        <span role="columnheader" className="grid grid-cols-[1fr_1fr_60px] text-right">
          <span>Spend</span>
          <span>Sales</span>
          <span>Return</span>
        </span>
        <span role="columnheader" className="text-center">
          spend share | sales share
        </span>
        <span role="columnheader" className="text-right">
          Gap
        </span>
      </div>
      {page.shelves.map((shelf, i) => (
        <div
          key={shelf.key}
          role="row"
          className="grid grid-cols-[176px_minmax(0,1fr)_230px_184px_64px] items-end gap-4 border-t border-line/60 pt-2 pb-1.5"
        >
          <span role="cell">
            <Link
              href={`/w/${slug}/catalogue?shelf=${set}/${shelf.key}&sort=-cost&days=${definition.windowDays}`}
              className="inline-flex items-center gap-1.5 font-semibold hover:underline"
            >
              {definition.measure === "probability" && <HeatGlyph heat={shelf.heat} />} {shelf.name}
            </Link>
            <span className="block text-xs text-soft num">
              {plural(shelf.items, "item")}
              {shelf.priceFrom !== null && ` · ${money(shelf.priceFrom)} to ${money(shelf.priceTo ?? 0)}`}
            </span>
            <span className="block text-xs text-soft num">{cutText(i)}</span>
          </span>
          <span role="cell">
            <Plank
              heat={shelf.heat}
              blocks={shelf.blocks}
              more={shelf.more}
              widest={widest}
              tallest={tallest}
              label={`${shelf.name}: ${plural(shelf.items, "item")}, spend ${money(shelf.sums.cost)}, sales ${money(shelf.sums.revenue)}`}
              describe={(block) => `${block.title}: spend ${money(block.cost)}, sales ${money(block.revenue)}`}
            />
          </span>
          <span role="cell" className="grid grid-cols-[1fr_1fr_60px] text-right num">
            <span>{money(shelf.sums.cost)}</span>
            <span>{money(shelf.sums.revenue)}</span>
            <b>{formatMetric("roas", METRICS.roas.of(shelf.sums), currency)}</b>
          </span>
          <span role="cell" className="text-center">
            <BalanceBar spendShare={shelf.spendShare} salesShare={shelf.salesShare} scale={scale} />
          </span>
          <span role="cell" className="text-right">
            <Gap gap={shelf.gap} />
          </span>
        </div>
      ))}
      <div
        role="row"
        className="grid grid-cols-[176px_minmax(0,1fr)_230px_184px_64px] gap-4 border-t border-ink/40 pt-2 num"
      >
        <b role="cell">All shelves</b>
        <span role="cell" className="text-soft">
          {plural(page.items, "item")}
        </span>
        <span role="cell" className="grid grid-cols-[1fr_1fr_60px] text-right">
          <span>{money(page.total.cost)}</span>
          <span>{money(page.total.revenue)}</span>
          <b>{formatMetric("roas", METRICS.roas.of(page.total), currency)}</b>
        </span>
        <span role="cell" />
        <span role="cell" />
      </div>
    </div>
  );
}

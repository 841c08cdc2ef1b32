"use client";

import { useMemo, useState } from "react";
import { toast } from "sonner";
import { toTsv } from "@/core/dispatch/cells";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { Level } from "@/core/results/levels";
import type { SliceLine } from "@/server/across/results/slice-lines";
import { Button } from "@/ui/button";
import { toastError } from "../../../_lib/api";
import { useWorkspace } from "../../../_lib/workspace";
import { ItemActionDialog, type ItemAction } from "../item-actions";
import { KeepShelfDialog } from "../keep-shelf-dialog";
import { NegativeDialog } from "./negative-dialog";
import type { Within } from "./use-results";

const PICKABLE = ["item", "term", "placement"] as const;
type Pickable = (typeof PICKABLE)[number];

/** Whether lines of a level can be picked, since something can be done with them. */
export function isPickable(level: Level): level is Pickable {
  return (PICKABLE as readonly string[]).includes(level);
}

/** What can be done with the picked lines, with their sum. */
export function ResultActions({
  level,
  lines,
  within,
  onClear,
}: {
  level: Pickable;
  lines: SliceLine[];
  /** The campaign or ad group that is looked into, where there is one. */
  within: Within | null;
  onClear: () => void;
}) {
  const { currency } = useWorkspace();
  const [doing, setDoing] = useState<ItemAction | "shelf" | "negative" | null>(null);
  // Clicks that came without a term, as from partner media, are a line too, and nothing that can be kept out.
  const keys = useMemo(() => [...new Set(lines.map(({ key }) => key))].filter((key) => key !== ""), [lines]);
  const sum = (of: (line: SliceLine) => number) => lines.reduce((total, line) => total + of(line), 0);
  const [cost, sales] = [sum(({ sums }) => sums.cost), sum(({ sums }) => sums.revenue)];
  const copy = async () => {
    const rows = lines.map(({ key, name, sums: { clicks, cost: spent, orders, revenue } }) => [
      ...[key, name, clicks, toUnits(spent), orders, toUnits(revenue)],
    ]);
    await navigator.clipboard.writeText(toTsv(["key", "name", "clicks", "spend", "orders", "ad sales"], rows));
    toast.success(`${plural(rows.length, "line")} copied`);
  };
  const close = () => setDoing(null);
  return (
    <div
      className="flex flex-wrap items-center gap-2 rounded-md bg-petrol-wash px-3 py-1.5 text-sm"
      role="group"
      aria-label="Picked lines"
    >
      <b className="num">{plural(new Set(lines.map(({ key }) => key)).size, "line")} picked</b>
      <span className="num text-soft">
        spend {formatMoney(cost, currency)} · ad sales {formatMoney(sales, currency)} ·{" "}
        {formatCount(sum(({ sums }) => sums.orders))} orders
      </span>
      {level === "item" ? (
        <>
          <Button onClick={() => setDoing("bid")}>Set bid</Button>
          <Button onClick={() => setDoing("exclude")}>Exclude</Button>
          <Button onClick={() => setDoing("shelf")}>Put on a shelf</Button>
        </>
      ) : (
        <Button
          disabled={keys.length === 0}
          title={keys.length === 0 ? "These clicks came without a term" : undefined}
          onClick={() => setDoing("negative")}
        >
          {level === "term" ? "Make negative" : "Exclude"}
        </Button>
      )}
      <Button onClick={() => void copy().catch(toastError)}>Copy</Button>
      <Button look="quiet" onClick={onClear}>
        Clear
      </Button>
      {level === "item" && (
        <ItemActionDialog action={doing === "bid" || doing === "exclude" ? doing : null} items={keys} onClose={close} />
      )}
      {doing === "shelf" && <KeepShelfDialog what={{ ids: keys }} count={keys.length} onClose={close} />}
      {doing === "negative" && level !== "item" && (
        <NegativeDialog level={level} values={keys} within={within} onClose={close} onDone={onClear} />
      )}
    </div>
  );
}

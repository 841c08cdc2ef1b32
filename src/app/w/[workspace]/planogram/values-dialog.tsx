"use client";

import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { SplitValue } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";

const ROW = 30;

/** The values of a field with what stands behind them, to choose some by hand. */
export function ValuesDialog({
  by,
  chosen,
  onClose,
  onChoose,
}: {
  by: string;
  chosen: string[] | null;
  onClose: () => void;
  onChoose: (values: string[]) => void;
}) {
  const apiPath = useApiPath();
  const values = useApi<SplitValue[]>(apiPath(`split-values?by=${encodeURIComponent(by)}`));
  return (
    <Dialog open onClose={onClose} title="Values to take" wide>
      {values.error && <ErrorNote error={values.error.failure} />}
      {values.isPending && <Loading what="values" />}
      {values.data && <ValuesList values={values.data} chosen={chosen} onClose={onClose} onChoose={onChoose} />}
    </Dialog>
  );
}

function ValuesList({
  values,
  chosen,
  onClose,
  onChoose,
}: {
  values: SplitValue[];
  chosen: string[] | null;
  onClose: () => void;
  onChoose: (values: string[]) => void;
}) {
  const { currency } = useWorkspace();
  const [picked, setPicked] = useState<ReadonlySet<string>>(() => new Set(chosen ?? values.map(({ value }) => value)));
  const [q, setQ] = useState("");
  const shown = useMemo(() => {
    const words = q.toLowerCase().split(/\s+/).filter(Boolean);
    return values.filter(({ label }) => words.every((word) => label.toLowerCase().includes(word)));
  }, [values, q]);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const mark = (of: SplitValue[], isPicked: boolean) =>
    setPicked((old) => {
      const next = new Set(old);
      for (const { value } of of)
        if (isPicked) next.add(value);
        else next.delete(value);
      return next;
    });
  const taken = values.filter(({ value }) => picked.has(value));
  const sum = (key: "items" | "cost" | "revenue") => taken.reduce((total, one) => total + one[key], 0);
  return (
    <div className="space-y-3">
      <div className="flex items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search values"
          placeholder="Search values"
          className="w-72!"
          value={q}
          onChange={(event) => setQ(event.target.value)}
        />
        <Button onClick={() => mark(shown, true)}>Take {q ? "those found" : "all"}</Button>
        <Button onClick={() => mark(shown, false)}>Take none{q && " of those found"}</Button>
      </div>
      <div
        ref={scroller}
        className="h-80 overflow-y-auto rounded-md border border-line"
        tabIndex={0}
        aria-label="Values"
      >
        <div style={{ height: rows.getTotalSize(), position: "relative" }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const one = shown[index]!;
            return (
              <label
                key={one.value}
                className="absolute inset-x-0 flex items-center gap-2 px-3 text-sm hover:bg-raised"
                style={{ top: start, height: ROW }}
              >
                <input
                  type="checkbox"
                  checked={picked.has(one.value)}
                  onChange={(event) => mark([one], event.target.checked)}
                />
                <span className="min-w-0 flex-1 truncate">{one.label}</span>
                <span className="w-24 text-right text-soft num">{plural(one.items, "item")}</span>
                <span className="w-28 text-right text-soft num">{formatMoney(one.cost, currency)} spend</span>
                <span className="w-28 text-right num">{formatMoney(one.revenue, currency)} sales</span>
              </label>
            );
          })}
        </div>
      </div>
      <div className="flex items-center gap-3">
        <p className="flex-1 text-sm text-soft num">
          {plural(taken.length, "value")} of {formatCount(values.length)}: {plural(sum("items"), "item")},{" "}
          {formatMoney(sum("cost"), currency)} spend, {formatMoney(sum("revenue"), currency)} sales in 90 days
        </p>
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" disabled={taken.length === 0} onClick={() => onChoose(taken.map(({ value }) => value))}>
          Take these
        </Button>
      </div>
    </div>
  );
}

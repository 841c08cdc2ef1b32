"use client";

import { useMemo, useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { SplitValue } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { Dialog } from "@/ui/dialog";
import { TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";

const valuesOf = (values: SplitValue[]) => values.map(({ value }) => value);

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
  const isAllPicked = shown.length > 0 && shown.every(({ value }) => picked.has(value));
  const mark = (of: string[], isPicked: boolean) => {
    const next = new Set(picked);
    for (const value of of) {
      if (isPicked) next.add(value);
      else next.delete(value);
    }
    setPicked(next);
  };
  const columns: TableColumn<SplitValue>[] = [
    { key: "label", label: "Value", width: "1fr", cell: ({ label }) => label },
    { key: "items", label: "Items", width: 90, align: "right", cell: ({ items }) => formatCount(items) },
    { key: "cost", label: "Spend", width: 120, align: "right", cell: ({ cost }) => formatMoney(cost, currency) },
    {
      key: "revenue",
      label: "Sales",
      width: 120,
      align: "right",
      cell: ({ revenue }) => formatMoney(revenue, currency),
    },
  ];
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
        <Button onClick={() => mark(valuesOf(shown), true)}>Take {q ? "those found" : "all"}</Button>
        <Button onClick={() => mark(valuesOf(shown), false)}>Take none{q && " of those found"}</Button>
      </div>
      <div className="flex h-80 flex-col">
        <DataTable
          label="Values"
          columns={columns}
          total={shown.length}
          rowAt={(index) => shown[index]}
          keyOf={({ value }) => value}
          selected={picked}
          onToggle={(value) => mark([value], !picked.has(value))}
          onToggleAll={() => mark(valuesOf(shown), !isAllPicked)}
          isAllSelected={isAllPicked}
          rowHeight={30}
          empty={<p className="p-4 text-soft">No value holds all of these words.</p>}
        />
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

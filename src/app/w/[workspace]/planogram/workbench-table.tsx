"use client";

import { useQueries } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useRef, useState } from "react";
import { plural } from "@/core/kit/format";
import type { AccountView } from "@/server/planogram/workbench";
import { DataTable } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { useKeys } from "@/ui/use-keys";
import { useUnfolded } from "@/ui/use-unfolded";
import { apiGet } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { ColumnChooser } from "../column-chooser";
import { useEdit } from "../use-edit";
import { FoldButton } from "./fold-button";
import { WorkbenchActs } from "./workbench-acts";
import { USUAL_COLUMNS, workbenchColumns } from "./workbench-columns";
import { workbenchRows } from "./workbench-rows";

/** Campaigns, ad groups and product groups as one tree in a table: searched, sorted, opened, picked by mouse or keys, edited in place. */
export function WorkbenchTable({
  view: { lines },
  q,
  onSearch,
}: {
  view: AccountView;
  q: string;
  onSearch: (q: string) => void;
}) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const [sort, setSort] = useQueryState("sort", parseAsString.withDefault(""));
  const [columns, setColumns] = useQueryState("cols", parseAsString.withDefault(USUAL_COLUMNS.join(",")));
  const unfolded = useUnfolded();
  const { open, turn: unfold } = unfolded;
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [cursor, setCursor] = useState(-1);
  const search = useRef<HTMLInputElement>(null);
  const edit = useEdit();

  const opened = lines.filter(({ level, key }) => level === "adGroup" && open.has(key)).map(({ key }) => key);
  const loaded = useQueries({
    queries: opened.map((key) => {
      const path = apiPath(`product-groups?adGroup=${encodeURIComponent(key)}&days=${days}`);
      return { queryKey: ["api", path], queryFn: () => apiGet<AccountView>(path) };
    }),
  });
  const campaigns = lines.flatMap(({ level, key }) => (level === "campaign" ? [key] : []));
  const groupsOf = new Map(opened.map((key, i) => [key, loaded[i]?.data?.lines ?? []]));
  const rows = workbenchRows(lines, groupsOf, open, q, sort);
  const picked = [...lines, ...[...groupsOf.values()].flat()].filter(({ key }) => selected.has(key));

  const toggle = (key: string) =>
    setSelected((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const at = rows[cursor];
  const isAll = rows.length > 0 && rows.every(({ line }) => selected.has(line.key));
  const toggleAll = () => setSelected(isAll ? new Set() : new Set(rows.map(({ line }) => line.key)));
  useKeys({
    "/": () => search.current?.focus(),
    j: () => setCursor((old) => Math.min(rows.length - 1, old + 1)),
    k: () => setCursor((old) => Math.max(0, old - 1)),
    x: () => at && toggle(at.line.key),
    a: toggleAll,
    Enter: () => at && at.isOpen !== null && unfold(at.line.key),
    ArrowRight: () => at?.isOpen === false && unfold(at.line.key),
    ArrowLeft: () => at?.isOpen === true && unfold(at.line.key),
  });

  const known = workbenchColumns({ currency, unfold, edit });
  const shown = columns.split(",").filter((key) => key in known);
  return (
    <>
      <div className="flex items-center gap-2">
        <TextInput
          ref={search}
          type="search"
          aria-label="Search campaigns and ad groups"
          placeholder="Search campaigns and ad groups  ( / )"
          className="w-80!"
          value={q}
          onChange={(event) => onSearch(event.target.value)}
        />
        <span className="text-sm text-soft num">{plural(rows.length, "line")}</span>
        <span className="mr-auto">
          {/* A search unfolds what it finds by itself. */}
          {q === "" && <FoldButton unfolded={unfolded} campaigns={campaigns} />}
        </span>
        <ColumnChooser
          fields={Object.values(known).flatMap(({ key, label }) => (key === "name" ? [] : [{ name: key, label }]))}
          chosen={shown}
          defaults={USUAL_COLUMNS}
          onChange={(next) => void setColumns(next.join(","))}
        />
      </div>
      {picked.length > 0 && <WorkbenchActs lines={picked} onClear={() => setSelected(new Set())} />}
      <DataTable
        label="Campaigns and groups"
        columns={[known["name"]!, ...shown.map((key) => known[key]!)]}
        total={rows.length}
        rowAt={(index) => rows[index]}
        keyOf={({ line }) => line.key}
        sort={sort}
        onSort={(next) => void setSort(next || null)}
        selected={selected}
        onToggle={toggle}
        onToggleAll={toggleAll}
        isAllSelected={isAll}
        cursor={cursor}
        onCursor={setCursor}
        empty={<p className="p-6 text-center text-soft">No campaign or ad group has “{q}” in its name.</p>}
      />
    </>
  );
}

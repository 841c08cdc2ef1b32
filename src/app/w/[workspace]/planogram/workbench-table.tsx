"use client";

import { useQueries } from "@tanstack/react-query";
import { ChevronRight } from "lucide-react";
import { parseAsString, useQueryState } from "nuqs";
import { useRef, useState } from "react";
import { OFF_WORDS } from "@/core/account/off";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { AccountLine, AccountView } from "@/server/planogram/workbench";
import { cx } from "@/ui/cx";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { HeatMark } from "@/ui/heat";
import { useKeys } from "@/ui/use-keys";
import { apiGet } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { GroupClickPrices } from "../click-prices";
import { MoneyCell } from "../money-cell";
import { useEdit } from "../use-edit";
import { WorkbenchActs } from "./workbench-acts";
import { figuresOf, workbenchRows, type WorkbenchRow } from "./workbench-rows";

/** Campaigns, ad groups and product groups as one tree in a table: searched, sorted, opened, picked by mouse or keys, edited in place. */
export function WorkbenchTable({
  view: { lines, version },
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
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [cursor, setCursor] = useState(-1);
  const search = useRef<HTMLInputElement>(null);
  const edit = useEdit(version);

  const opened = lines.filter(({ level, key }) => level === "adGroup" && open.has(key)).map(({ key }) => key);
  const loaded = useQueries({
    queries: opened.map((key) => {
      const path = apiPath(`product-groups?adGroup=${encodeURIComponent(key)}&days=${days}`);
      return { queryKey: ["api", path], queryFn: () => apiGet<AccountView>(path) };
    }),
  });
  const groupsOf = new Map(opened.map((key, i) => [key, loaded[i]?.data?.lines ?? []]));
  const rows = workbenchRows(lines, groupsOf, open, q, sort);
  const picked = [...lines, ...[...groupsOf.values()].flat()].filter(({ key }) => selected.has(key));

  const flip = (set: ReadonlySet<string>, key: string) => {
    const next = new Set(set);
    if (!next.delete(key)) next.add(key);
    return next;
  };
  const toggle = (key: string) => setSelected((old) => flip(old, key));
  const unfold = (key: string) => setOpen((old) => flip(old, key));
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

  const money = (line: AccountLine, of: "cost" | "revenue") => (
    <Past of={line}>{formatMoney(figuresOf(line)[of], currency)}</Past>
  );
  const columns: TableColumn<WorkbenchRow>[] = [
    {
      ...{ key: "name", label: "Name", width: "1fr", sort: "name" },
      cell: (row) => <NameCell row={row} onToggle={unfold} />,
    },
    {
      ...{ key: "status", label: "Status", width: 132 },
      cell: ({ line }) => (
        <StatusCell
          line={line}
          onFlip={() =>
            void edit({ action: "status", keys: [line.key], status: line.status === "on" ? "paused" : "on" })
          }
        />
      ),
    },
    {
      ...{ key: "items", label: "Items", width: 64, align: "right", sort: "items" },
      cell: ({ line }) => formatCount(line.items),
    },
    {
      ...{ key: "budget", label: "Budget a day", width: 98, align: "right", sort: "budget" },
      cell: ({ line }) =>
        line.dailyBudget !== null && (
          <MoneyCell
            label={`Daily budget of ${line.name}`}
            value={line.dailyBudget}
            onSave={(dailyBudget) => edit({ action: "budget", keys: [line.key], dailyBudget })}
          />
        ),
    },
    {
      ...{ key: "bid", label: "Bid", width: 92, align: "right", sort: "bid" },
      cell: ({ line }) =>
        line.level !== "campaign" &&
        !(line.level === "productGroup" && line.status === "closed") && (
          <MoneyCell
            label={`Bid of ${line.name}`}
            value={line.bid}
            empty="group's bid"
            beside={<GroupClickPrices group={line.key} />}
            onSave={(bid) => edit({ action: "bid", keys: [line.key], bid })}
          />
        ),
    },
    {
      ...{ key: "cost", label: "Spend", width: 88, align: "right", sort: "cost" },
      cell: ({ line }) => money(line, "cost"),
    },
    {
      ...{ key: "revenue", label: "Ad sales", width: 96, align: "right", sort: "revenue" },
      cell: ({ line }) => money(line, "revenue"),
    },
    {
      ...{ key: "orders", label: "Orders", width: 64, align: "right", sort: "orders" },
      cell: ({ line }) => <Past of={line}>{formatCount(figuresOf(line).orders)}</Past>,
    },
    {
      ...{ key: "roas", label: "ROAS", width: 60, align: "right", sort: "roas" },
      cell: ({ line }) => <Past of={line}>{formatMetric("roas", METRICS.roas.of(figuresOf(line)), currency)}</Past>,
    },
    { key: "heat", label: "Heat", width: 94, cell: ({ line }) => line.heat && <HeatMark heat={line.heat} /> },
  ];
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
      </div>
      {picked.length > 0 && <WorkbenchActs lines={picked} onClear={() => setSelected(new Set())} />}
      <DataTable
        label="Campaigns and groups"
        columns={columns}
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

/** Greys what the items of a new group did before it was there. */
function Past({ of: { sums, past }, children }: { of: AccountLine; children: React.ReactNode }) {
  if (sums.impressions > 0 || !past) return <>{children}</>;
  return (
    <span className="text-soft italic" title="What its items did before, wherever they were served">
      {children}
    </span>
  );
}

function NameCell({ row: { line, depth, isOpen }, onToggle }: { row: WorkbenchRow; onToggle: (key: string) => void }) {
  const name = (
    <>
      <span className="truncate">{line.name}</span>
      {line.waiting && (
        <span className="shrink-0 rounded bg-petrol-wash px-1 text-xs text-petrol">
          {line.waiting === "new" ? "not sent" : "changed"}
        </span>
      )}
      {line.clash && (
        <span className="shrink-0 text-xs font-semibold text-ember" title={line.clash}>
          name and settings differ
        </span>
      )}
      {line.leaks > 0 && (
        <span className="shrink-0 text-xs font-semibold text-ember">
          ▾ {line.level === "productGroup" ? "leak: open" : plural(line.leaks, "leak")}
        </span>
      )}
    </>
  );
  const indent = { paddingLeft: depth * 20 };
  if (isOpen === null) {
    return (
      <span className="flex items-center gap-1.5 pl-5" style={indent} title={line.name}>
        <span aria-hidden className="w-5 shrink-0" />
        {name}
      </span>
    );
  }
  return (
    <button
      type="button"
      aria-expanded={isOpen}
      title={line.name}
      style={indent}
      onClick={(event) => {
        event.stopPropagation();
        onToggle(line.key);
      }}
      className={cx(
        "flex w-full min-w-0 items-center gap-1.5 text-left",
        depth === 0 && "font-semibold",
        line.status !== "on" && "text-soft",
      )}
    >
      <ChevronRight aria-hidden className={cx("size-4 shrink-0 transition-transform", isOpen && "rotate-90")} />
      {name}
    </button>
  );
}

/** On or paused, flipped by a click; beside it why it serves nothing, or not all day. */
function StatusCell({ line, onFlip }: { line: AccountLine; onFlip: () => void }) {
  const { status, off, pausedFor, reviewOn } = line;
  const isOn = status === "on";
  const why = [
    off === "paused" || off === "closed" ? "" : off ? OFF_WORDS[off] : "",
    pausedFor,
    reviewOn ? `look again ${reviewOn}` : "",
  ]
    .filter(Boolean)
    .join("; ");
  return (
    <span className="flex min-w-0 items-center gap-1.5">
      <button
        type="button"
        className="rounded border border-line px-1.5 py-0.5 text-xs hover:bg-raised"
        title={isOn ? "Stop it" : "Switch it on"}
        onClick={(event) => {
          event.stopPropagation();
          onFlip();
        }}
      >
        {status}
      </button>
      {why && (
        <span className={cx("truncate text-xs", isOn ? "text-ember" : "text-soft")} title={why}>
          {why}
        </span>
      )}
    </span>
  );
}

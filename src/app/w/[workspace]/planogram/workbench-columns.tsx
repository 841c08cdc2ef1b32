"use client";

import { flexWords, HELD } from "@/core/account/records/campaign";
import { ChevronRight } from "lucide-react";
import { OFF_WORDS } from "@/core/account/off";
import { countryName } from "@/core/kit/countries";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import type { AccountLine } from "@/server/planogram/workbench";
import { cx } from "@/ui/cx";
import type { TableColumn } from "@/ui/data-table";
import { HeatMark } from "@/ui/heat";
import { GroupClickPrices } from "../click-prices";
import { MoneyCell } from "../money-cell";
import type { useEdit } from "../use-edit";
import { BIDDING_LABEL, SERVE_LABEL } from "./setting-words";
import { figuresOf, LINE_METRICS, type WorkbenchRow } from "./workbench-rows";

type Column = TableColumn<WorkbenchRow>;

/** The columns as at first, after the name. */
export const USUAL_COLUMNS = ["status", "items", "budget", "bid", "cost", "revenue", "orders", "roas", "heat"];

/** Settings that only campaigns have, as text. */
const SETTINGS: [key: string, label: string, width: number, of: (line: AccountLine) => string | null][] = [
  ["kind", "Kind", 84, ({ kind }) => kind],
  ["purpose", "Purpose", 88, ({ purpose }) => purpose],
  ["bidding", "Bidding", 150, ({ bidding }) => bidding && BIDDING_LABEL[bidding]],
  ["serves", "Serves", 76, ({ serveOrder }) => (serveOrder === null ? null : SERVE_LABEL[serveOrder - 1]!)],
  ["folder", "Folder", 110, ({ folder }) => folder],
  ["country", "Country", 90, ({ country }) => country && countryName(country)],
  ["flex", "Auction flex", 96, ({ flex, level }) => (level === "campaign" ? flexWords(flex ?? HELD) : null)],
  ["reviewOn", "Look again", 96, ({ reviewOn }) => reviewOn],
];

const WIDTH: Record<string, number> = { cost: 88, revenue: 96, orders: 66, roas: 60, impressions: 96 };

/** Every column that the workbench can show, by its key. */
export function workbenchColumns({
  currency,
  unfold,
  edit,
}: {
  currency: string;
  unfold: (key: string) => void;
  edit: ReturnType<typeof useEdit>;
}): Record<string, Column> {
  const columns: Column[] = [
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
      ...{ key: "budget", label: "Budget a day", width: 104, align: "right", sort: "budget" },
      cell: ({ line }) =>
        line.dailyBudget !== null && (
          <MoneyCell
            label={`Daily budget of ${line.name}`}
            value={line.dailyBudget}
            onSave={(mills) => edit({ action: "budget", keys: [line.key], op: { how: "set", mills } })}
          />
        ),
    },
    {
      ...{ key: "bid", label: "Bid", width: 78, align: "right", sort: "bid" },
      cell: ({ line }) =>
        line.level !== "campaign" &&
        !(line.level === "productGroup" && line.status === "closed") && (
          <MoneyCell
            label={`Bid of ${line.name}`}
            value={line.bid}
            empty="group's bid"
            beside={<GroupClickPrices group={line.key} />}
            onSave={(mills) => edit({ action: "bid", keys: [line.key], op: { how: "set", mills } })}
          />
        ),
    },
    { key: "heat", label: "Heat", width: 84, cell: ({ line }) => line.heat && <HeatMark heat={line.heat} /> },
    ...SETTINGS.map(([key, label, width, of]): Column => ({
      ...{ key, label, width },
      cell: ({ line }) => <span className="text-soft">{of(line)}</span>,
    })),
    ...LINE_METRICS.map((key): Column => {
      const { label, about, of } = METRICS[key];
      return {
        ...{
          key,
          label: key === "orders" ? "Orders" : label,
          about,
          width: WIDTH[key] ?? 80,
          align: "right",
          sort: key,
        },
        cell: ({ line }) => <Past of={line}>{formatMetric(key, of(figuresOf(line)), currency)}</Past>,
      };
    }),
  ];
  return Object.fromEntries(columns.map((column) => [column.key, column]));
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
          {line.waiting === "new" ? "new" : "changed"}
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

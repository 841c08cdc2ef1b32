"use client";

import { useQueryStates } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { formatMoney, formatMoneyRound, toUnits } from "@/core/kit/money";
import { VERDICTS } from "@/core/targets/harvest";
import type { LedgerLine, LedgerView } from "@/server/targets/ledger";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { Pills } from "@/ui/pills";
import { useSettled } from "@/ui/use-settled";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { AimAt } from "../../aim-at";
import { NegativeDialog } from "../../negative-dialog";
import { PasteLines } from "../../paste-lines";
import { PickBar } from "../../pick-bar";
import { useList } from "../../use-list";
import { TargetsTabs } from "../tabs";
import { useDecideAgainst } from "../use-decide-against";
import { ledgerPath, ledgerState, SHOWN, type Shown } from "./asks";
import { HarvestDialog } from "./harvest-dialog";
import { NoteDialog } from "./note-dialog";

type Doing = "harvest" | "aim" | "negative" | "note" | "import";
type Named = { what: "term" | "listing"; text: string };

const EMPTY: Partial<Record<Shown, string>> = {
  harvest:
    "Nothing sold often enough yet that is not in use. More results, or fewer orders in the house rules, bring some.",
  single: "Nothing sold once without being in use.",
  waste: "Nothing only costs, as far as its clicks can tell.",
  dismissed: "Nobody decided against a term or listing, and no list of what is used elsewhere was taken in.",
};

/** Every term and listing ever considered: what it did, what should become of it, and what became of it. */
export default function LedgerPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const decideAgainst = useDecideAgainst();
  useOwnWindow("The last 180 days");
  const [{ show, q: typed }, setAsked] = useQueryStates(ledgerState);
  const q = useSettled(typed, 250);
  const ledger = useApi<LedgerView>(apiPath(ledgerPath({ show, q })), { placeholderData: (before) => before });
  const [doing, setDoing] = useState<Doing | null>(null);
  const list = useList({
    rows: ledger.data?.lines ?? [],
    keyOf: ({ key }) => key,
    textOf: ({ place, campaigns }) => `${place} ${campaigns.join(" ")}`,
    sorts: {
      place: ({ place }) => place,
      clicks: ({ clicks }) => clicks,
      cost: ({ cost }) => cost,
      orders: ({ orders }) => orders,
      revenue: ({ revenue }) => revenue,
      acos: ({ acos }) => acos,
      aMonth: ({ aMonth }) => aMonth,
      since: ({ entry }) => entry?.since ?? null,
    },
    copy: [
      { heading: "term or listing", of: ({ place }) => place },
      { heading: "kind", of: ({ what }) => what ?? "not known" },
      { heading: "clicks", of: ({ clicks }) => clicks },
      { heading: "spend", of: ({ cost }) => toUnits(cost) },
      { heading: "orders", of: ({ orders }) => orders },
      { heading: "ad sales", of: ({ revenue }) => toUnits(revenue) },
      { heading: "ACOS", of: ({ acos }) => acos },
      { heading: "ACOS up to", of: ({ ceiling }) => ceiling },
      { heading: "expected a month", of: ({ aMonth }) => (aMonth === null ? null : toUnits(aMonth)) },
      { heading: "state", of: ({ entry }) => entry?.state ?? "" },
      { heading: "since", of: ({ entry }) => entry?.since ?? "" },
    ],
  });
  if (ledger.error || !ledger.data) {
    return (
      <PageWaiting title="Ledger" what="the ledger" error={ledger.error}>
        <TargetsTabs />
      </PageWaiting>
    );
  }
  const { counts, days, total, lines } = ledger.data;
  const picked = list.picked;
  const named = picked.flatMap(({ what, place }): Named[] => (what ? [{ what, text: place }] : []));
  const sum = (of: (line: LedgerLine) => number) => picked.reduce((all, line) => all + of(line), 0);
  const close = () => setDoing(null);
  const note = async (reason: string) => {
    if (!(await decideAgainst(named, reason))) return;
    close();
    list.clear();
  };
  const forget = async () => {
    const noted = picked.filter(({ entry }) => entry?.state === "dismissed" || entry?.state === "elsewhere");
    const places = named.filter(({ text }) => noted.some(({ place }) => place === text));
    try {
      await apiSend(apiPath("ledger/notes/forget"), { places });
      toast.success(`${plural(places.length, "line")} will be judged again`);
      list.clear();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const take = async (values: string[]) => {
    try {
      const { kept, unsure } = await apiSend<{ kept: number; unsure: string[] }>(apiPath("ledger/import"), { values });
      close();
      await refresh();
      if (unsure.length === 0) toast.success(`${plural(kept, "line")} noted as used elsewhere`);
      else {
        toast.warning(
          `${plural(kept, "line")} noted. ${plural(unsure.length, "line")} could be a term or a listing and ${unsure.length === 1 ? "was" : "were"} left out: ${unsure.slice(0, 3).join(", ")}${unsure.length > 3 ? " …" : ""}`,
          { duration: 20_000 },
        );
      }
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Ledger"
        facts={`${formatCount(counts.all)} terms and listings in ${plural(days, "day")}: ${formatCount(counts.harvest)} to harvest, ${formatCount(counts.used)} in use`}
      >
        <Button onClick={() => setDoing("import")}>Take a list in</Button>
      </PageHead>
      <TargetsTabs />
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search the ledger"
          placeholder="Search the ledger  ( / )"
          className="w-56!"
          value={typed}
          onChange={(event) => void setAsked({ q: event.target.value || null })}
        />
        <Pills
          label="What is shown"
          value={show}
          pills={(Object.keys(SHOWN) as Shown[]).map((key) => ({ key, label: SHOWN[key], count: counts[key] }))}
          onChange={(key) => {
            void setAsked({ show: key });
            list.clear();
          }}
        />
      </div>
      {total > lines.length && (
        <p className="text-sm text-soft num">
          The first {formatCount(lines.length)} of {formatCount(total)} are listed; search finds the others.
        </p>
      )}
      {picked.length > 0 && (
        <PickBar
          label={`${plural(picked.length, "line")} picked`}
          sums={`spend ${formatMoney(
            sum(({ cost }) => cost),
            currency,
          )} · ad sales ${formatMoney(
            sum(({ revenue }) => revenue),
            currency,
          )} · ${formatCount(sum(({ orders }) => orders))} orders`}
          onCopy={list.copyRows}
          onClear={list.clear}
        >
          <Button disabled={named.length === 0} onClick={() => setDoing("harvest")}>
            Harvest …
          </Button>
          <Button onClick={() => setDoing("aim")}>Aim by hand …</Button>
          <Button onClick={() => setDoing("negative")}>Keep out …</Button>
          {show === "dismissed" ? (
            <Button disabled={named.length === 0} onClick={() => void forget()}>
              Judge again
            </Button>
          ) : (
            <Button disabled={named.length === 0} onClick={() => setDoing("note")}>
              Decide against …
            </Button>
          )}
        </PickBar>
      )}
      {counts.all === 0 ? (
        <EmptyNote title="Nothing was considered yet">
          Terms and listings come with results by search term, with what is aimed at, and with lists taken in here.
        </EmptyNote>
      ) : (
        <DataTable
          label="Ledger"
          columns={columnsOf(currency)}
          rowHeight={44}
          empty={<p className="p-4 text-sm text-soft">{(q === "" && EMPTY[show]) || "Nothing is like that."}</p>}
          {...list.table}
        />
      )}
      {doing === "harvest" && <HarvestDialog places={named} onClose={close} onDone={list.clear} />}
      {doing === "aim" && <AimAt values={picked.map(({ place }) => place)} onClose={close} onDone={list.clear} />}
      {doing === "negative" && (
        <NegativeDialog
          level="term"
          values={picked.map(({ place }) => place)}
          within={null}
          onClose={close}
          onDone={list.clear}
        />
      )}
      {doing === "note" && <NoteDialog count={named.length} onKeep={note} onClose={close} />}
      {doing === "import" && (
        <PasteLines
          title="Take in a list of what is used elsewhere"
          next="Note them"
          kinds={{ told: "search terms and codes of listings" }}
          onNext={(_, values) => void take(values)}
          onClose={close}
        />
      )}
    </div>
  );
}

const VERDICT_WORDS = { harvest: "to harvest", single: "sold once", waste: "only costs", open: "open" } as const;

function columnsOf(currency: string): TableColumn<LedgerLine>[] {
  const money = (mills: number) => formatMoney(mills, currency);
  const figure = (line: LedgerLine, of: (line: LedgerLine) => string) => (line.clicks === 0 ? "–" : of(line));
  return [
    {
      ...{ key: "place", label: "Term or listing", width: "1fr", sort: "place" },
      cell: ({ place, what, campaigns }) => (
        <span className="block min-w-0" title={place}>
          <span className="block truncate leading-tight">{place}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {what === null ? "term or page, not known" : what === "term" ? "term" : "page"}
            {campaigns.length > 0 && ` · ${campaigns.slice(0, 2).join(", ")}`}
            {campaigns.length > 2 && ` and ${campaigns.length - 2} more`}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 70, align: "right", sort: "clicks" },
      cell: (line) => figure(line, ({ clicks }) => formatCount(clicks)),
    },
    {
      ...{ key: "cost", label: "Spend", width: 90, align: "right", sort: "cost" },
      cell: (line) => figure(line, ({ cost }) => money(cost)),
    },
    {
      ...{ key: "orders", label: "Orders", width: 70, align: "right", sort: "orders" },
      cell: (line) => figure(line, ({ orders }) => formatCount(orders)),
    },
    {
      ...{ key: "revenue", label: "Ad sales", width: 96, align: "right", sort: "revenue" },
      cell: (line) => figure(line, ({ revenue }) => money(revenue)),
    },
    {
      ...{ key: "acos", label: "ACOS", width: 96, align: "right", sort: "acos" },
      cell: ({ acos, ceiling, clicks }) => (
        <span>
          <span className="block leading-tight">
            {clicks === 0 ? "–" : acos === null ? "no sales" : formatShare(acos)}
          </span>
          {ceiling !== null && clicks > 0 && (
            <span className="block text-[11px] leading-tight text-soft">up to {formatShare(ceiling)}</span>
          )}
        </span>
      ),
    },
    {
      ...{ key: "aMonth", label: "A month", width: 84, align: "right", sort: "aMonth" },
      cell: ({ aMonth }) =>
        aMonth === null ? (
          "–"
        ) : (
          <span title="Expected after costs, by pooled evidence">{formatMoneyRound(aMonth, currency)}</span>
        ),
    },
    {
      ...{ key: "since", label: "Where it stands", width: 190, sort: "since" },
      cell: ({ entry, verdict, factor, clicks }) => (
        <span className="block min-w-0" title={entry?.reason || VERDICTS[verdict]}>
          <span className="block truncate leading-tight">{entry ? entry.state : VERDICT_WORDS[verdict]}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {entry
              ? [entry.since && `since ${entry.since}`, entry.where.join(", "), entry.reason]
                  .filter(Boolean)
                  .join(" · ")
              : clicks > 0 && `${factor.toFixed(1)} × the usual orders`}
          </span>
        </span>
      ),
    },
  ];
}

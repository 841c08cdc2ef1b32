"use client";

import { ClipboardPaste, Download } from "lucide-react";
import { useQueryStates } from "nuqs";
import { useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { BID_KINDS, BID_METHODS, NO_PROPOSAL, type BidKind, type BidMethod } from "@/core/bid-desk/bid-lines";
import { toTsv } from "@/core/dispatch/cells";
import { formatCount, plural } from "@/core/kit/format";
import { formatChange, toUnits } from "@/core/kit/money";
import type { BidFilter, BidRow, BidsView, WhichBids } from "@/server/bids/desk";
import { Button, buttonClasses } from "@/ui/button";
import { cx } from "@/ui/cx";
import { DataTable } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead, WaitingRows } from "@/ui/page";
import { useKeys } from "@/ui/use-keys";
import { useSettled } from "@/ui/use-settled";
import { apiGet, ApiError, toastError } from "../../../_lib/api";
import { usePages } from "../../../_lib/use-pages";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { PickBar } from "../pick-bar";
import { bidsPath, bidsState, KINDS } from "./asks";
import { bidColumns } from "./columns";
import { PasteBids } from "./paste-bids";
import { SetDialog } from "./set-dialog";
import { BidsTabs } from "./tabs";

const SHOWN = { proposed: "with another bid proposed", all: "all" } as const;

/** Bids that can be picked at once by name. */
const MOST_PICKED = 10_000;

const linesOf = ({ lines }: BidsView) => lines;

/** What each bid is, stands on, and would be by a method; picked or all of them go into the basket. */
export default function BidsPage() {
  const { currency, slug } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("The last 180 days");
  const [{ kind, method, show, q, sort }, setState] = useQueryStates(bidsState);
  const words = useSettled(q, 250);
  const filter: BidFilter = { kind, method, show, q: words, sort };
  const query = new URLSearchParams(filter).toString();
  const pages = usePages<BidsView, BidRow>((offset, limit) => apiPath(bidsPath(filter, offset, limit)), linesOf);
  const view = pages.first;
  const [picked, setPicked] = useState<ReadonlyMap<string, BidRow>>(new Map());
  const [adjusted, setAdjusted] = useState<ReadonlyMap<string, number>>(new Map());
  const [cursor, setCursor] = useState(-1);
  const [asked, setAsked] = useState<{ bids: WhichBids; count: number } | null>(null);
  const [isPasting, setPasting] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  const total = view?.total ?? 0;

  const forget = () => {
    setPicked(new Map());
    setAdjusted(new Map());
  };
  const change = (next: Partial<{ kind: BidKind; method: BidMethod; show: "proposed" | "all" }>) => {
    forget();
    setCursor(-1);
    void setState(next);
  };
  const toggle = (line: BidRow) => {
    // Those of what was looked for before are of another kind.
    if (pages.isOld) return;
    setPicked((old) => {
      const next = new Map(old);
      if (!next.delete(line.key)) next.set(line.key, line);
      return next;
    });
  };
  const adjust = (line: BidRow, mills: number) => {
    setAdjusted((old) => new Map(old).set(line.key, mills));
    setPicked((old) => new Map(old).set(line.key, line));
  };
  const columns = useMemo(() => bidColumns(currency, adjusted, adjust), [currency, adjusted]);
  const chosen = [...picked.values()];
  const amounts = chosen.flatMap(({ key, proposed }) => {
    const mills = adjusted.get(key) ?? proposed?.bid;
    const byHand = adjusted.has(key) ? { reason: "Typed in the bid desk" } : {};
    return mills === undefined ? [] : [{ key, mills, ...byHand }];
  });
  const setPickedBids = () => {
    if (amounts.length > 0) setAsked({ bids: { filter, which: { lines: amounts } }, count: amounts.length });
    else toast.info("None of these has another bid proposed; type an amount first.");
  };
  const toggleAll = async () => {
    if (picked.size > 0) return forget();
    try {
      const all = await apiGet<BidsView>(apiPath(`bids?${query}&offset=0&limit=${MOST_PICKED}`));
      setPicked(new Map(all.lines.map((line) => [line.key, line])));
      if (all.total > all.lines.length) {
        toast.info(
          `The first ${formatCount(all.lines.length)} are picked. “Set all” takes every one that has another bid.`,
        );
      }
    } catch (error) {
      toastError(error);
    }
  };
  const copy = () => {
    const rows = chosen.length > 0 ? chosen : pages.here;
    const text = toTsv(
      ["key", "name", "campaign", "bid", "proposed"],
      rows.map(({ key, name, campaignName, bid, proposed }) => [
        ...[key, name, campaignName, toUnits(bid)],
        toUnits(adjusted.get(key) ?? proposed?.bid ?? bid),
      ]),
    );
    navigator.clipboard
      .writeText(text)
      .then(() => toast.success(`${plural(rows.length, "line")} copied`))
      .catch(toastError);
  };
  const move = (step: number) => setCursor((at) => Math.max(0, Math.min(total - 1, at + step)));
  useKeys({
    "/": () => search.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    x: () => {
      const row = pages.rowAt(cursor);
      if (row) toggle(row);
    },
    a: () => void toggleAll(),
    c: copy,
    y: setPickedBids,
  });

  if (pages.failed) {
    return (
      <div className="space-y-3">
        <PageHead title="Bids" />
        <BidsTabs />
        {pages.failed instanceof ApiError && <ErrorNote error={pages.failed.failure} />}
      </div>
    );
  }
  if (!view) {
    return (
      <div className="space-y-3">
        <PageHead title="Bids" />
        <BidsTabs />
        <WaitingRows />
      </div>
    );
  }
  const { expected, proposed } = view;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Bids"
        facts={`${plural(proposed, "other bid")} proposed: spend a day ${formatChange(expected.cost, currency)}, ${
          expected.contribution
            ? `contribution ${formatChange(expected.contribution.mean, currency)} (${formatChange(expected.contribution.low, currency)} to ${formatChange(expected.contribution.high, currency)})`
            : `sales ${formatChange(expected.revenue, currency)}; costs are not known`
        }`}
      >
        <Button onClick={() => setPasting(true)}>
          <ClipboardPaste aria-hidden className="size-4" /> Paste bids …
        </Button>
        {proposed > 0 && picked.size === 0 && !pages.isPending && (
          <Button look="ember" onClick={() => setAsked({ bids: { filter, which: { proposed } }, count: proposed })}>
            {`Set all ${formatCount(proposed)} …`}
          </Button>
        )}
      </PageHead>
      <BidsTabs />
      <div className="flex flex-wrap items-center gap-2">
        <div role="group" aria-label="Bids of" className="flex gap-1.5">
          {KINDS.map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={kind === one}
              onClick={() => change({ kind: one })}
              className={cx(
                "rounded-md border px-2.5 py-1 text-sm num",
                kind === one ? "border-petrol bg-petrol-wash font-semibold" : "border-line bg-surface hover:bg-raised",
              )}
            >
              {BID_KINDS[one]} <span className="text-soft">{formatCount(view.kinds[one])}</span>
            </button>
          ))}
        </div>
        <ChoiceSelect
          aria-label="Method"
          className="w-80!"
          choices={BID_METHODS}
          value={method}
          onChange={(next) => change({ method: next })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          ref={search}
          type="search"
          aria-label="Search bids"
          placeholder="Search bids  ( / )"
          className="w-56!"
          value={q}
          onChange={(event) => void setState({ q: event.target.value || null })}
        />
        <ChoiceSelect
          aria-label="Which are shown"
          className="w-56!"
          choices={SHOWN}
          value={show}
          onChange={(next) => change({ show: next })}
        />
        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/bids.csv?${query}`} download>
          <Download aria-hidden className="size-4" /> CSV
        </a>
        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/bids.xlsx?${query}`} download>
          XLSX
        </a>
        <span className="text-sm text-soft num">{restWords(view)}</span>
      </div>
      {picked.size > 0 && (
        <PickBar
          label={`${plural(picked.size, "bid")} picked`}
          sums={`spend a day ${formatChange(
            chosen.reduce((sum, { expected: one }) => sum + (one?.cost ?? 0), 0),
            currency,
          )} as proposed`}
          onCopy={copy}
          onClear={forget}
        >
          <Button onClick={setPickedBids}>Set …</Button>
        </PickBar>
      )}
      <DataTable
        label="Bids"
        columns={columns}
        total={total}
        rowAt={pages.rowAt}
        isOld={pages.isOld}
        keyOf={({ key }) => key}
        onRange={pages.onRange}
        rowHeight={48}
        sort={sort}
        onSort={(next) => void setState({ sort: next })}
        selected={new Set(picked.keys())}
        onToggle={(key) => {
          const line = picked.get(key) ?? pages.here.find((one) => one.key === key);
          if (line) toggle(line);
        }}
        onToggleAll={() => void toggleAll()}
        isAllSelected={picked.size > 0 && picked.size >= Math.min(total, MOST_PICKED)}
        cursor={cursor}
        onCursor={setCursor}
        empty={
          <EmptyNote title={pages.isPending ? "Working it out …" : "No bid to change here"}>
            {pages.isPending
              ? "What each bid is worth is being worked out."
              : "By this method and the house rules, no bid of this kind would be another one. “All” shows why."}
          </EmptyNote>
        }
      />
      {isPasting && (
        <PasteBids
          what={BID_KINDS[kind].toLowerCase()}
          onClose={() => setPasting(false)}
          onNext={(lines) => {
            setPasting(false);
            const plain: BidFilter = { ...filter, method: method === "push" ? "contribution" : method };
            setAsked({
              bids: { filter: plain, which: { lines: lines.map((line) => ({ ...line, reason: "Pasted" })) } },
              count: lines.length,
            });
          }}
        />
      )}
      {asked && (
        <SetDialog
          asked={asked.bids}
          count={asked.count}
          onClose={() => setAsked(null)}
          onDone={() => {
            setAsked(null);
            forget();
          }}
        />
      )}
    </div>
  );
}

/** Why the others of this kind have no other bid. */
function restWords({ none }: BidsView): string {
  const parts = (Object.entries(none) as [keyof typeof NO_PROPOSAL, number][])
    .sort(([, a], [, b]) => b - a)
    .map(([why, count]) => `${formatCount(count)} ${NO_PROPOSAL[why]}`);
  return parts.length > 0 ? `The others: ${parts.join(", ")}` : "";
}

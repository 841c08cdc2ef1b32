"use client";

import { Download } from "lucide-react";
import { useQueryStates } from "nuqs";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatChange, formatMoney, formatMoneyRound, toUnits } from "@/core/kit/money";
import type { MoveLine, MovesView, WhichMoves } from "@/server/moves/moves";
import { Button, buttonClasses } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { Pills } from "@/ui/pills";
import { useKeys } from "@/ui/use-keys";
import { useSettled } from "@/ui/use-settled";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { PickBar } from "../pick-bar";
import { useList } from "../use-list";
import { MOST_LISTED, movesPath, movesQuery, movesState, SHOWN } from "./asks";
import { AcceptDialog, DecideDialog } from "./dialogs";
import { MovePanel } from "./move-panel";
import { MovesTabs } from "./tabs";
import { asSeen, useDecide } from "./use-moves";

type Doing = { how: "accept" | "dismissed" | "snoozed"; which: WhichMoves; count: number };

/** What Hot Shelf proposes to do, the most money at stake first; accepted ones go into the basket. */
export default function MovesPage() {
  const { currency, slug } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("The last 180 days");
  const [{ kind, show, q: typed }, setAsked] = useQueryStates(movesState);
  const q = useSettled(typed, 250);
  const asked = movesQuery({ kind, show, q });
  const moves = useApi<MovesView>(apiPath(movesPath({ kind, show, q })), {
    placeholderData: (before) => before,
  });
  const [opened, setOpened] = useState<string | null>(null);
  const [doing, setDoing] = useState<Doing | null>(null);
  const decide = useDecide();
  const list = useList({
    rows: moves.data?.lines ?? [],
    keyOf: ({ key }) => key,
    textOf: ({ about, what, why, key, campaignName }) => `${about} ${what} ${why} ${key} ${campaignName ?? ""}`,
    sorts: {
      about: ({ about }) => about,
      campaign: ({ campaignName }) => campaignName,
      stake: ({ stake }) => stake,
      left: ({ expected }) => expected.contribution?.mean ?? null,
      cost: ({ expected }) => expected.cost,
      orders: ({ stands }) => stands.orders,
      clicks: ({ stands }) => stands.clicks,
    },
    copy: [
      { heading: "about", of: ({ about }) => about },
      { heading: "campaign", of: ({ campaignName }) => campaignName },
      { heading: "what", of: ({ what }) => what },
      { heading: "why", of: ({ why }) => why },
      { heading: "clicks", of: ({ stands }) => stands.clicks },
      { heading: "orders", of: ({ stands }) => stands.orders },
      { heading: "spend a day", of: ({ expected }) => toUnits(expected.cost) },
      {
        heading: "contribution a day",
        of: ({ expected }) => expected.contribution && toUnits(expected.contribution.mean),
      },
      { heading: "at stake a month", of: ({ stake }) => toUnits(stake) },
    ],
  });
  const move = moves.data?.lines.find(({ key }) => key === opened);
  const picked = list.picked;
  useKeys({
    Enter: () => {
      const row = list.found[list.table.cursor];
      if (row) setOpened(row.key);
    },
    y: () => {
      if (picked.length > 0) setDoing({ how: "accept", which: asSeen(picked), count: picked.length });
    },
  });
  if (moves.error || !moves.data) {
    return (
      <PageWaiting title="Moves" what="the moves" error={moves.error}>
        <MovesTabs />
      </PageWaiting>
    );
  }
  const { total, stake, kinds, priceOfMoney, money, full, days, snoozed, dismissed } = moves.data;
  const done = () => {
    setDoing(null);
    setOpened(null);
    list.clear();
  };
  const found: Doing = {
    how: "accept",
    which: { filter: { show, q, ...(kind ? { kind } : {}) }, total },
    count: total,
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Moves"
        facts={`${plural(total, "move")}, ${formatMoneyRound(stake, currency)} a month at stake, by ${days} days of results · ${priceWords(priceOfMoney, money, full, currency)}`}
      >
        {show === "open" && total > 0 && picked.length === 0 && (
          <Button look="ember" onClick={() => setDoing(found)}>
            {`Accept all ${formatCount(total)} …`}
          </Button>
        )}
      </PageHead>
      <MovesTabs />
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search moves"
          placeholder="Search moves  ( / )"
          className="w-56!"
          {...list.search}
        />
        <ChoiceSelect
          aria-label="Which are shown"
          className="w-44!"
          value={show}
          choices={{
            open: SHOWN.open,
            snoozed: `${SHOWN.snoozed} (${formatCount(snoozed)})`,
            dismissed: `${SHOWN.dismissed} (${formatCount(dismissed)})`,
          }}
          onChange={(next) => void setAsked({ show: next })}
        />
        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/moves.csv?${asked}`} download>
          <Download aria-hidden className="size-4" /> CSV
        </a>
        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/moves.xlsx?${asked}`} download>
          XLSX
        </a>
        {total > MOST_LISTED && (
          <span className="text-sm text-soft num">
            The {formatCount(MOST_LISTED)} with the most at stake are listed.
          </span>
        )}
      </div>
      <Pills
        label="Kinds of moves"
        value={kind}
        pills={kinds
          .filter((one) => one.moves > 0 || one.key === kind)
          .map(({ key, name, moves: count, stake: money }) => ({
            ...{ key, label: name, count },
            more: formatMoneyRound(money, currency),
          }))}
        onChange={(key) => void setAsked({ kind: kind === key ? null : key })}
      />
      {picked.length > 0 && (
        <PickBar
          label={`${plural(picked.length, "move")} picked`}
          sums={`${formatMoney(
            picked.reduce((sum, one) => sum + one.stake, 0),
            currency,
          )} a month at stake`}
          onCopy={list.copyRows}
          onClear={list.clear}
        >
          <Button onClick={() => setDoing({ how: "accept", which: asSeen(picked), count: picked.length })}>
            Accept …
          </Button>
          {show === "open" ? (
            <>
              <Button onClick={() => setDoing({ how: "dismissed", which: asSeen(picked), count: picked.length })}>
                Dismiss …
              </Button>
              <Button onClick={() => setDoing({ how: "snoozed", which: asSeen(picked), count: picked.length })}>
                Put off …
              </Button>
            </>
          ) : (
            <Button onClick={() => void decide(asSeen(picked), "open").then((isDone) => isDone && list.clear())}>
              Open again
            </Button>
          )}
        </PickBar>
      )}
      <DataTable
        label="Moves"
        columns={columnsFor(currency)}
        rowHeight={48}
        isOld={moves.isPlaceholderData}
        {...list.table}
        onOpen={({ key }) => setOpened(key)}
        empty={
          <EmptyNote title={show === "open" ? "Nothing to propose" : "None here"}>
            {show === "open"
              ? "Nothing that is looked for would be expected to bring more than it costs, within the house rules."
              : "Moves that you put aside stand here, and can be opened again."}
          </EmptyNote>
        }
      />
      {move && doing === null && (
        <MovePanel
          key={move.seal}
          move={move}
          onClose={() => setOpened(null)}
          onDecide={(how) => setDoing({ how, which: asSeen([move]), count: 1 })}
        />
      )}
      {doing?.how === "accept" && (
        <AcceptDialog which={doing.which} count={doing.count} onClose={() => setDoing(null)} onDone={done} />
      )}
      {(doing?.how === "dismissed" || doing?.how === "snoozed") && (
        <DecideDialog
          how={doing.how}
          which={doing.which}
          count={doing.count}
          onClose={() => setDoing(null)}
          onDone={done}
        />
      )}
    </div>
  );
}

/** What a unit more of money would bring, in words. */
function priceWords(price: number | null, money: number, full: number, currency: string): string {
  if (price === null) return "nothing is spent yet";
  const budget = `full days cost ${formatMoneyRound(full, currency)} of ${formatMoneyRound(money, currency)}`;
  return price < 0.01
    ? `money lasts: ${budget}`
    : `money is short: ${budget}, one more would bring ${(1 + price).toFixed(2)}`;
}

function columnsFor(currency: string): TableColumn<MoveLine>[] {
  const signed = (mills: number) => formatChange(mills, currency);
  return [
    {
      ...{ key: "about", label: "About", width: "1fr", sort: "about" },
      cell: ({ about, campaignName }) => (
        <span title={about}>
          <span className="block truncate leading-tight font-semibold">{about}</span>
          <span className="block truncate text-xs leading-tight text-soft">{campaignName ?? "all campaigns"}</span>
        </span>
      ),
    },
    {
      ...{ key: "what", label: "What, and why", width: 380 },
      cell: ({ what, why }) => (
        <span title={`${what}. ${why}`}>
          <span className="block truncate leading-tight num">{what}</span>
          <span className="block truncate text-xs leading-tight text-soft num">{why}</span>
        </span>
      ),
    },
    {
      ...{ key: "orders", label: "Orders", width: 70, align: "right", sort: "orders" },
      about: "Orders and clicks that it stands on.",
      cell: ({ stands }) => (
        <span>
          <span className="block leading-tight">{formatCount(stands.orders)}</span>
          <span className="block text-xs leading-tight text-soft">{formatCount(stands.clicks)}</span>
        </span>
      ),
    },
    {
      ...{ key: "cost", label: "Spend a day", width: 96, align: "right", sort: "cost" },
      cell: ({ expected }) => signed(expected.cost),
    },
    {
      ...{ key: "left", label: "Contribution a day", width: 138, align: "right", sort: "left" },
      about: "Expected, and the interval that holds the truth four times in five.",
      cell: ({ expected: { contribution } }) =>
        contribution === null ? (
          "–"
        ) : (
          <span>
            <span className="block leading-tight font-semibold">{signed(contribution.mean)}</span>
            <span className="block text-xs leading-tight text-soft">
              {signed(contribution.low)} to {signed(contribution.high)}
            </span>
          </span>
        ),
    },
    {
      ...{ key: "stake", label: "At stake", width: 92, align: "right", sort: "stake" },
      about: "A month: what is expected of it, by the chance that it is above nothing.",
      cell: ({ stake }) => formatMoney(stake, currency),
    },
  ];
}

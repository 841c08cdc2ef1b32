"use client";

import { clock } from "@/core/kit/clock";
import { ACTS } from "@/core/account/acts";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatDay } from "@/core/kit/days";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { DeskLine, MoneyDesk } from "@/server/budgets/desk";
import type { BudgetsView, CampaignMoney } from "@/server/budgets/pools";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { MoneyCell } from "../money-cell";
import { PickBar } from "../pick-bar";
import { formsFor, RecordDialog, type RecordAction } from "../record-dialogs";
import { useEdit } from "../use-edit";
import { useList } from "../use-list";
import { CampaignPanel } from "./campaign-panel";
import { MonthStrip } from "./month-strip";
import { Purses } from "./purses";
import { ShareDialog } from "./share-dialog";
import { LEAST_CEILING } from "./words";

/** What is called otherwise, or set otherwise, is done in the workbench. */
const ELSEWHERE: readonly RecordAction[] = ["rename", "folder", "settings"];
const MONEY_ACTS = formsFor("campaign").filter((act) => !ELSEWHERE.includes(act));

/** Budgets of campaigns, pools and the whole workspace: what draws on each, and when it stops. */
export default function BudgetsPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("Averages of the last 14 days");
  const budgets = useApi<BudgetsView>(apiPath("budgets"));
  const edit = useEdit();
  const returns = useApi<MoneyDesk>(apiPath("budgets/returns"));
  const [doing, setDoing] = useState<{ act: RecordAction; on: CampaignMoney[] } | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const [isSharing, setSharing] = useState(false);
  const money = (mills: number) => formatMoney(mills, currency);
  const pools = new Map((budgets.data?.pools ?? []).map(({ key, name }) => [key, name]));
  const lineOf = new Map((returns.data?.lines ?? []).map((line) => [line.key, line]));
  const list = useList({
    rows: budgets.data?.campaigns ?? [],
    keyOf: ({ key }) => key,
    textOf: ({ name, pool }) => `${name} ${pools.get(pool ?? "") ?? ""}`,
    sorts: {
      name: ({ name }) => name,
      budget: ({ dailyBudget }) => dailyBudget,
      spent: ({ spent }) => spent,
      share: ({ spent, dailyBudget }) => (dailyBudget > 0 ? spent / dailyBudget : null),
      dry: ({ dryDays }) => dryDays,
      at: ({ dryAt }) => dryAt,
      serve: ({ serveOrder }) => serveOrder,
      roas: ({ key }) => roasOf(lineOf.get(key)),
      next: ({ key }) => lineOf.get(key)?.next.left ?? null,
      ceiling: ({ key }) => lineOf.get(key)?.ceiling ?? null,
    },
    copy: [
      { heading: "campaign", of: ({ name }) => name },
      { heading: "status", of: ({ status }) => status },
      { heading: "budget a day", of: ({ dailyBudget }) => toUnits(dailyBudget) },
      { heading: "spent a day", of: ({ spent }) => toUnits(spent) },
      { heading: "pool", of: ({ pool }) => pools.get(pool ?? "") ?? "" },
      { heading: "dry days", of: ({ dryDays }) => dryDays },
      { heading: "dry at", of: ({ dryAt }) => (dryAt === null ? null : clock(dryAt)) },
      { heading: "return", of: ({ key }) => roasOf(lineOf.get(key)) },
      { heading: "full day costs", of: ({ key }) => unitsOf(lineOf.get(key)?.full.cost) },
      { heading: "next sales", of: ({ key }) => lineOf.get(key)?.next.sales ?? null },
      { heading: "next after costs", of: ({ key }) => lineOf.get(key)?.next.left ?? null },
      { heading: "pays up to a day", of: ({ key }) => unitsOf(lineOf.get(key)?.ceiling) },
      { heading: "serve order", of: ({ serveOrder }) => serveOrder },
      { heading: "flex", of: ({ flex }) => flex },
    ],
  });
  if (budgets.error || !budgets.data) return <PageWaiting title="Budgets" what="the budgets" error={budgets.error} />;
  const { total, from, to, campaigns } = budgets.data;
  const keys = list.picked.map(({ key }) => key);
  const running = campaigns.filter(({ status }) => status === "on");
  const sharing = list.picked.filter(({ status }) => status === "on");
  const open = campaigns.find(({ key }) => key === opened);
  // What is still being worked out is not what nobody knows.
  const unknown = returns.isPending ? "…" : "–";
  const columns: TableColumn<CampaignMoney>[] = [
    {
      ...{ key: "name", label: "Campaign", width: "1fr", sort: "name" },
      cell: ({ name, status }) => (
        <span className={status === "on" ? undefined : "text-soft"}>
          {name}
          {status !== "on" && " (paused)"}
        </span>
      ),
    },
    {
      ...{ key: "budget", label: "Budget a day", width: 104, align: "right", sort: "budget" },
      cell: ({ key, name, dailyBudget }) => (
        <MoneyCell
          label={`Daily budget of ${name}`}
          value={dailyBudget}
          onSave={(mills) => edit({ action: "budget", keys: [key], op: { how: "set", mills } })}
        />
      ),
    },
    {
      ...{ key: "spent", label: "Spent a day", width: 100, align: "right", sort: "spent" },
      cell: ({ spent }) => money(spent),
    },
    {
      ...{ key: "share", label: "Used", width: 64, align: "right", sort: "share" },
      cell: ({ spent, dailyBudget }) => (dailyBudget > 0 ? `${Math.round((100 * spent) / dailyBudget)} %` : "–"),
    },
    {
      ...{ key: "dry", label: "Ran dry", width: 104, align: "right", sort: "dry" },
      about: "Days of the last 14 on which its money was gone, and at about what time.",
      cell: ({ dryDays, days, dryAt }) =>
        days === 0 ? (
          "–"
        ) : (
          <span className={dryDays > 0 ? "text-ember" : "text-soft"}>
            <span className="block leading-tight">{`${dryDays} of ${days} days`}</span>
            {dryAt !== null && <span className="block text-xs leading-tight">at about {clock(dryAt)}</span>}
          </span>
        ),
    },
    {
      ...{ key: "roas", label: "Return", width: 68, align: "right", sort: "roas" },
      about: "Sales ÷ spend of the last 14 days, late orders allowed for.",
      cell: ({ key }) => roasOf(lineOf.get(key))?.toFixed(2) ?? unknown,
    },
    {
      ...{ key: "next", label: "Next one brings", width: 106, align: "right", sort: "next" },
      about: `What one ${currency} a day more brings after costs, and in sales: without what it would only take from other campaigns.`,
      cell: ({ key }) => <NextCell line={lineOf.get(key)} otherwise={unknown} />,
    },
    {
      ...{ key: "ceiling", label: "Pays up to", width: 92, align: "right", sort: "ceiling" },
      about: "The spend a day beyond which more brings less than itself.",
      cell: ({ key, dailyBudget }) => {
        const ceiling = lineOf.get(key)?.ceiling;
        if (ceiling === undefined || ceiling === null) return unknown;
        return (
          <span className={ceiling < dailyBudget ? "text-ember" : undefined}>
            {ceiling < LEAST_CEILING ? "nothing" : money(ceiling)}
          </span>
        );
      },
    },
    {
      key: "pool",
      label: "Pool",
      width: 100,
      cell: ({ pool }) => pools.get(pool ?? "") ?? <span className="text-soft">–</span>,
    },
    {
      ...{ key: "serve", label: "Serves", width: 70, align: "right", sort: "serve" },
      cell: ({ serveOrder }) => formatCount(serveOrder),
    },
  ];
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Budgets"
        facts={`${money(total.dailyBudget)} a day over running campaigns${from !== null && to !== null ? `, ${money(total.spent)} spent a day from ${formatDay(from)} to ${formatDay(to)}` : ""}`}
      />
      {campaigns.length === 0 ? (
        <EmptyNote title="Budgets will stand here">Plan campaigns first; each comes with a budget a day.</EmptyNote>
      ) : (
        <>
          {returns.data ? (
            <MonthStrip month={returns.data.month} />
          ) : (
            // Its place is kept from the start, so that nothing jumps when it comes.
            returns.isPending && <div aria-hidden className="h-[72px] rounded-lg border border-line bg-surface" />
          )}
          <Purses view={budgets.data} />
          <div className="flex flex-wrap items-center gap-2">
            <TextInput
              type="search"
              aria-label="Search campaigns"
              placeholder="Search campaigns  ( / )"
              className="w-64!"
              {...list.search}
            />
            <span className="text-sm text-soft num">{plural(list.found.length, "campaign")}</span>
            <span className="ml-auto text-sm text-soft num">
              {returns.data
                ? priceWords(returns.data, currency)
                : returns.error
                  ? `${returns.error.failure.message} ${returns.error.failure.hint ?? ""}`
                  : "Working out what money brings …"}
            </span>
            <Button look="ember" disabled={running.length === 0} onClick={() => setSharing(true)}>
              Share a total out …
            </Button>
          </div>
          {keys.length > 0 && (
            <PickBar
              label={`${plural(keys.length, "campaign")} picked`}
              sums={`budgets ${money(list.picked.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0))} · spent ${money(list.picked.reduce((sum, { spent }) => sum + spent, 0))} a day`}
              onCopy={list.copyRows}
              onClear={list.clear}
            >
              {MONEY_ACTS.map((act) => (
                <Button key={act} onClick={() => setDoing({ act, on: list.picked })}>
                  {ACTS[act].button}
                </Button>
              ))}
            </PickBar>
          )}
          <DataTable
            label="Budgets of campaigns"
            columns={columns}
            empty={<p className="p-4 text-sm text-soft">No campaign is called like that.</p>}
            rowHeight={44}
            {...list.table}
            onOpen={({ key }) => setOpened(key)}
          />
        </>
      )}
      {open && doing === null && (
        <CampaignPanel
          campaign={open}
          line={lineOf.get(open.key)}
          onClose={() => setOpened(null)}
          onDo={(act) => setDoing({ act, on: [open] })}
        />
      )}
      {isSharing && (
        <ShareDialog campaigns={sharing.length > 1 ? sharing : running} onClose={() => setSharing(false)} />
      )}
      <RecordDialog
        action={doing?.act ?? null}
        on={{
          keys: (doing?.on ?? []).map(({ key }) => key),
          label: doing?.on.length === 1 ? doing.on[0]!.name : plural(doing?.on.length ?? 0, "campaign"),
        }}
        onClose={() => setDoing(null)}
        onDone={list.clear}
      />
    </div>
  );
}

const roasOf = (line: DeskLine | undefined) => (line && line.spent > 0 ? line.sales / line.spent : null);
const unitsOf = (mills: number | null | undefined) => (mills == null ? null : toUnits(Math.round(mills)));

/** What the next unit brings after costs, with its sales below; in sales alone where costs are not known. */
function NextCell({ line, otherwise }: { line: DeskLine | undefined; otherwise: string }) {
  if (!line) return otherwise;
  const { left, sales } = line.next;
  if (left === null) return `${sales.toFixed(2)} of sales`;
  return (
    <span className={left < 1 ? "text-ember" : "font-semibold"}>
      <span className="block leading-tight">{left.toFixed(2)}</span>
      <span className="block text-xs leading-tight font-normal text-soft">{sales.toFixed(2)} of sales</span>
    </span>
  );
}

/** What a unit more for the whole account would bring, and how demand goes. */
function priceWords({ priceOfMoney, demand }: MoneyDesk, currency: string): string {
  const price =
    priceOfMoney === null
      ? "Nothing is spent yet."
      : priceOfMoney < 0.01
        ? "Money lasts through the day: one more changes nothing at these bids."
        : `One ${currency} more for the whole account would bring ${(1 + priceOfMoney).toFixed(2)} after costs.`;
  if (demand === null || Math.abs(demand - 1) < 0.03) return price;
  return `${price} Shop orders ${demand > 1 ? "up" : "down"} ${Math.round(100 * Math.abs(demand - 1))} % in a fortnight.`;
}

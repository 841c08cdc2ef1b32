"use client";

import { clock } from "@/core/kit/clock";
import { ACTS } from "@/core/account/acts";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatDay } from "@/core/kit/days";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { BudgetsView, CampaignMoney } from "@/server/budgets/pools";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { MoneyCell } from "../money-cell";
import { PickBar } from "../pick-bar";
import { formsFor, RecordDialog, type RecordAction } from "../record-dialogs";
import { useEdit } from "../use-edit";
import { useList } from "../use-list";
import { Purses } from "./purses";

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
  const [doing, setDoing] = useState<RecordAction | null>(null);
  const money = (mills: number) => formatMoney(mills, currency);
  const pools = new Map((budgets.data?.pools ?? []).map(({ key, name }) => [key, name]));
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
    },
    copy: [
      { heading: "campaign", of: ({ name }) => name },
      { heading: "status", of: ({ status }) => status },
      { heading: "budget a day", of: ({ dailyBudget }) => toUnits(dailyBudget) },
      { heading: "spent a day", of: ({ spent }) => toUnits(spent) },
      { heading: "pool", of: ({ pool }) => pools.get(pool ?? "") ?? "" },
      { heading: "dry days", of: ({ dryDays }) => dryDays },
      { heading: "dry at", of: ({ dryAt }) => (dryAt === null ? null : clock(dryAt)) },
      { heading: "serve order", of: ({ serveOrder }) => serveOrder },
      { heading: "flex", of: ({ flex }) => flex },
    ],
  });
  if (budgets.error) return <ErrorNote error={budgets.error.failure} />;
  if (!budgets.data) return <Loading what="the budgets" />;
  const { total, from, to, campaigns } = budgets.data;
  const keys = list.picked.map(({ key }) => key);
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
      ...{ key: "dry", label: "Ran dry", width: 110, align: "right", sort: "dry" },
      cell: ({ dryDays, days }) =>
        days === 0 ? (
          "–"
        ) : (
          <span className={dryDays > 0 ? "text-ember" : "text-soft"}>{`${dryDays} of ${days} days`}</span>
        ),
    },
    {
      ...{ key: "at", label: "At about", width: 80, align: "right", sort: "at" },
      cell: ({ dryAt }) => (dryAt === null ? "–" : clock(dryAt)),
    },
    {
      key: "pool",
      label: "Pool",
      width: 130,
      cell: ({ pool }) => pools.get(pool ?? "") ?? <span className="text-soft">–</span>,
    },
    {
      ...{ key: "serve", label: "Serves", width: 70, align: "right", sort: "serve" },
      cell: ({ serveOrder }) => formatCount(serveOrder),
    },
    { key: "flex", label: "Flex", width: 76, cell: ({ flex }) => flex },
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
          </div>
          {keys.length > 0 && (
            <PickBar
              label={`${plural(keys.length, "campaign")} picked`}
              sums={`budgets ${money(list.picked.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0))} · spent ${money(list.picked.reduce((sum, { spent }) => sum + spent, 0))} a day`}
              onCopy={list.copyRows}
              onClear={list.clear}
            >
              {MONEY_ACTS.map((act) => (
                <Button key={act} onClick={() => setDoing(act)}>
                  {ACTS[act].button}
                </Button>
              ))}
            </PickBar>
          )}
          <DataTable
            label="Budgets of campaigns"
            columns={columns}
            empty={<p className="p-4 text-sm text-soft">No campaign is called like that.</p>}
            {...list.table}
          />
        </>
      )}
      <RecordDialog
        action={doing}
        on={{ keys, label: keys.length === 1 ? list.picked[0]!.name : plural(keys.length, "campaign") }}
        onClose={() => setDoing(null)}
        onDone={list.clear}
      />
    </div>
  );
}

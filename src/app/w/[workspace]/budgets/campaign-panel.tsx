"use client";

import { THIN_DAYS } from "@/core/budgets/stock-cover";
import { STOP_DAYS } from "@/core/budgets/stop-days";
import { formatMoney } from "@/core/kit/money";
import type { DeskLine } from "@/server/budgets/desk";
import type { CampaignMoney } from "@/server/budgets/pools";
import { Button } from "@/ui/button";
import { SidePanel } from "@/ui/dialog";
import { useWorkspace } from "../../../_lib/workspace";
import type { RecordAction } from "../record-dialogs";
import { CurveChart } from "./curve-chart";
import { moneyAdvice, percentOf } from "./words";

/** One campaign's money opened: its curve, what the next of it brings, where it stops to pay, what dry hours lose. */
export function CampaignPanel({
  campaign,
  line,
  onClose,
  onDo,
}: {
  campaign: CampaignMoney;
  line: DeskLine | undefined;
  onClose: () => void;
  onDo: (act: RecordAction) => void;
}) {
  const { currency } = useWorkspace();
  const money = (mills: number) => formatMoney(mills, currency);
  return (
    <SidePanel
      open
      onClose={onClose}
      title={
        <>
          <p className="font-display text-lg leading-tight font-semibold">{campaign.name}</p>
          <p className="text-sm text-soft num">
            {campaign.status === "on" ? "running" : "paused"}, {money(campaign.dailyBudget)} a day
          </p>
        </>
      }
    >
      {!line ? (
        <p className="text-sm">
          It has spent nothing in the last 180 days, so nobody knows what its money would bring. It needs days with
          spend first.
        </p>
      ) : (
        <div className="space-y-4 text-sm num">
          <ul className="list-disc space-y-1 pl-4">
            {moneyAdvice(campaign, line, currency).map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
          <section>
            <h2 className="mb-1 font-semibold">What money brings</h2>
            <CurveChart line={line} />
            <p className="text-soft">
              From {line.days} days with spend, dry ones as the full days they would have been, at the demand of now;
              one per cent more spend brings {line.elasticity.toFixed(2)} per cent more sales there. The band holds the
              truth four times in five.
            </p>
          </section>
          <section>
            <h2 className="mb-1 font-semibold">A day, over the last {STOP_DAYS} days</h2>
            <table className="w-full">
              <tbody>
                {(
                  [
                    ["Spent", money(line.spent)],
                    ["Sales, late orders allowed for", money(line.sales)],
                    ["A full day at present bids costs", money(line.full.cost)],
                    [
                      "Left of sales after costs, new ones only",
                      line.margin === null ? "–, costs are not known" : percentOf(line.margin),
                    ],
                    ["Clicks on items that others serve too", percentOf(line.shared)],
                    [
                      `Sales from items with under ${THIN_DAYS} days of stock`,
                      line.thinStock === null ? "–, stock is not known" : percentOf(line.thinStock),
                    ],
                  ] as const
                ).map(([name, value]) => (
                  <tr key={name} className="border-b border-line/60 last:border-0">
                    <th scope="row" className="py-1 text-left font-normal text-soft">
                      {name}
                    </th>
                    <td className="py-1 text-right">{value}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          <div className="flex flex-wrap gap-2">
            <Button look="ember" onClick={() => onDo("budget")}>
              Change its budget …
            </Button>
            {campaign.dryDays > 0 && <Button onClick={() => onDo("bid")}>Bid lower …</Button>}
          </div>
        </div>
      )}
    </SidePanel>
  );
}

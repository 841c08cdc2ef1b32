"use client";

import { formatMoneyRound } from "@/core/kit/money";
import { NO_VALUE, plural } from "@/core/kit/format";
import { BECAME, type Became, type Comparison, type MonthOf } from "@/core/stocktake/compare";
import { FAULTS } from "@/core/stocktake/finding";
import { SidePanel } from "@/ui/dialog";
import { ErrorNote, Loading } from "@/ui/notes";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";

const TITLE: Record<Became, string> = {
  new: "New",
  "came back": "Came back",
  "still there": "Still there",
  mended: "Mended",
};

/** Two stocktakes beside each other: what was mended, what is still there, what is new, and how the whole went. */
export function ComparePanel({ id, other, onClose }: { id: number; other: number; onClose: () => void }) {
  const apiPath = useApiPath();
  const found = useApi<Comparison>(apiPath(`stocktakes/${id}/compare/${other}`));
  return (
    <SidePanel
      open
      onClose={onClose}
      title={<span className="font-display text-lg font-semibold">What became of it</span>}
    >
      {found.error ? (
        <ErrorNote error={found.error.failure} />
      ) : found.data ? (
        <Compared compared={found.data} />
      ) : (
        <Loading what="both" />
      )}
    </SidePanel>
  );
}

function Compared({ compared }: { compared: Comparison }) {
  const { currency } = useWorkspace();
  const money = (mills: number | null) => (mills === null ? NO_VALUE : formatMoneyRound(mills, currency));
  const facts: [string, (of: MonthOf) => string][] = [
    ["Spend a month", ({ cost }) => money(cost)],
    ["Ad sales a month", ({ revenue }) => money(revenue)],
    ["Return", ({ roas }) => roas?.toFixed(2) ?? NO_VALUE],
    ["Orders a month", ({ orders }) => Math.round(orders).toLocaleString("en-GB")],
  ];
  return (
    <div className="space-y-4 text-sm">
      <table className="w-full num">
        <thead>
          <tr className="text-left text-soft">
            <th scope="col">The whole</th>
            <th scope="col" className="text-right">
              Then
            </th>
            <th scope="col" className="text-right">
              Now
            </th>
          </tr>
        </thead>
        <tbody>
          {facts.map(([label, of]) => (
            <tr key={label}>
              <td>{label}</td>
              <td className="text-right">{of(compared.before)}</td>
              <td className="text-right">{of(compared.after)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {BECAME.map((became) => {
        const lines = compared.findings.filter((one) => one.became === became);
        if (lines.length === 0) return null;
        return (
          <section key={became}>
            <h2 className="font-semibold">
              {TITLE[became]}, {lines.length}
            </h2>
            <ul className="divide-y divide-line">
              {lines.map(({ finding, before, after, gone, came }) => (
                <li key={finding.key} className="py-1.5 num">
                  {FAULTS[finding.fault]}
                  <span className="block text-soft">
                    {money(before)} → {money(after)} a month
                    {became === "still there" &&
                      gone !== null &&
                      came !== null &&
                      (gone > 0 || came > 0) &&
                      `; ${plural(gone, "name")} gone from it, ${came} came`}
                  </span>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}

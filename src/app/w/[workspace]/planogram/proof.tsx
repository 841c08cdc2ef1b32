"use client";

import { ShieldAlert, ShieldCheck } from "lucide-react";
import { columnLabel } from "@/core/catalogue/catalogue-columns";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { LeftOut } from "@/core/planogram/plan";
import type { Planogram } from "@/core/planogram/planogram";
import type { Homes, PlanProof } from "@/server/planogram/prove";
import { LIVE, WITH_BASKET } from "../live-words";
import { useWorkspace } from "../../../_lib/workspace";

function ruleWords({ rule, split }: LeftOut, planogram: Planogram): string {
  if (rule === "filter") return "outside the filter";
  if (rule === "sold out" || rule === "excluded") return rule;
  return `not taken by split ${split}, ${columnLabel(planogram.ladder[(split ?? 1) - 1]?.by ?? "")}`;
}

/** The proof: the account as it would be, walked; what that does to items, to other campaigns, and to the money of a day. */
export function Proof({
  planogram,
  proof,
  isStale,
}: {
  planogram: Planogram;
  proof: PlanProof | undefined;
  isStale: boolean;
}) {
  const { currency } = useWorkspace();
  if (!proof) return <p className="text-soft">Walking the account as it would be …</p>;
  const { own, before, after, money } = proof;
  const isSound = own.none === 0 && own.leaks === 0 && after.leaks <= before.leaks && proof.lost === 0;
  const Shield = isSound ? ShieldCheck : ShieldAlert;
  return (
    <div aria-busy={isStale} className="relative">
      {isStale && <p className="absolute right-0 bottom-0 text-xs text-soft">Proving it anew …</p>}
      <div className="flex items-start gap-4">
        <Shield aria-hidden className={`mt-1 size-8 shrink-0 ${isSound ? "text-petrol" : "text-ember"}`} />
        <table className="w-full text-sm num">
          <thead>
            <tr className="text-right text-soft">
              <th scope="col" className="py-1 text-left font-normal">
                Items
              </th>
              {["one home", "several homes", "no home", "leaks"].map((name) => (
                <th key={name} scope="col" className="px-2 py-1 font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <HomesRow label="taken by this plan" homes={own} strong />
            <HomesRow label="whole account, with this plan" homes={after} />
            {proof.live && <HomesRow label={`whole account, ${WITH_BASKET.toLowerCase()}`} homes={before} />}
            <HomesRow label={`whole account, ${LIVE.toLowerCase()}`} homes={proof.live ?? before} />
          </tbody>
        </table>
      </div>
      <ul className="mt-2 space-y-1 text-sm">
        {proof.lost > 0 && (
          <li className="font-semibold text-ember">
            {plural(proof.lost, "item")} that can be bought would lose {proof.lost === 1 ? "its" : "their"} home:
            nothing else serves what this plan leaves out.
          </li>
        )}
        {proof.leftOutBy.map((left) => (
          <li key={`${left.rule}${left.split ?? ""}`}>
            Left out on purpose: {plural(left.items, "item")} {ruleWords(left, planogram)}.
          </li>
        ))}
        {proof.takes.length > 0 && (
          <li>
            Serves first from then on, in place of:{" "}
            {proof.takes
              .map(({ name, items, isPaused }) => `${name} (${formatCount(items)}${isPaused ? ", paused" : ""})`)
              .join(", ")}
            .
          </li>
        )}
        {proof.servedFirstByOthers.length > 0 && (
          <li>
            Still served first by:{" "}
            {proof.servedFirstByOthers.map(({ name, items }) => `${name} (${formatCount(items)})`).join(", ")}. This
            plan takes over when their money is gone.
          </li>
        )}
        <li>
          A day costs at most <b className="num">{formatMoney(money.total, currency)}</b>:{" "}
          {formatMoney(money.plan, currency)} here and {formatMoney(money.others, currency)} by other campaigns that run
          on.
        </li>
      </ul>
    </div>
  );
}

function HomesRow({ label, homes, strong = false }: { label: string; homes: Homes; strong?: boolean }) {
  const cell = (count: number, isBad = false) => (
    <td className={`px-2 py-0.5 text-right ${isBad && count > 0 ? "font-semibold text-ember" : ""}`}>
      {formatCount(count)}
    </td>
  );
  return (
    <tr className={strong ? "font-semibold" : undefined}>
      <th scope="row" className="py-0.5 text-left font-[inherit]">
        {label}
      </th>
      {cell(homes.one)}
      {cell(homes.several)}
      {cell(homes.none, strong)}
      {cell(homes.leaks, true)}
    </tr>
  );
}

"use client";

import { Check, Circle } from "lucide-react";
import Link from "next/link";
import { formatCount, formatMetric, formatShare, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { STARTING_SET } from "@/core/shelves/ready-made";
import { formatMoney } from "@/core/kit/money";
import { clock } from "@/core/kit/clock";
import type { AlertKind } from "@/core/alerts/alerts";
import type { Asks } from "@/server/across/asks";
import type { OutOfStep } from "@/server/planogram/in-step";
import type { TillStrip } from "@/server/across/results/till";
import type { Forgotten } from "@/server/across/catalogue/standings";
import type { Slice } from "@/server/across/results/slice";
import { BalanceBar, Gap } from "@/ui/balance-bar";
import { buttonClasses } from "@/ui/button";

import { PageHead, PageWaiting, Surface } from "@/ui/page";
import { stepWords } from "./planogram/step-words";
import { TodayTabs } from "./today-tabs";
import { TopMoves } from "./moves/top-moves";
import { useShelfSets } from "./shelves/use-shelf-fields";
import { forgottenWords, replanPath } from "./forgotten";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../_lib/workspace";

interface Steps {
  catalogue: boolean;
  shelves: boolean;
  campaigns: boolean;
  basket: number;
  results: boolean;
  stocktake: boolean;
}

type Decision = [text: string, href: string, action: string];

/** Names told one by one. */
const MOST_NAMES = 3;

function named(list: { name: string }[]): string {
  const some = list.slice(0, MOST_NAMES).map(({ name }) => name);
  return list.length > MOST_NAMES ? `${some.join(", ")} and ${list.length - MOST_NAMES} more` : some.join(", ");
}

/** Where one goes from an alert. */
const ALERT_WAY: Record<AlertKind, [href: string, action: string]> = {
  tracking: ["results?level=day", "Look at the days"],
  return: ["results?level=campaign", "Look at campaigns"],
  spend: ["results?level=campaign", "Look at campaigns"],
  dry: ["budgets", "Look at budgets"],
  feed: ["catalogue", "Look at the feed"],
  homeless: ["planogram", "Plan them in"],
  "sold-out": ["stocktake", "Take stock"],
  turned: ["targets", "Look at targets"],
};

/** What is due, what runs out of money and what costs for nothing, as decisions. */
function askedFor(
  { alerts, pausesDue, exclusionsDue, placementsDue, experimentsOver, runDry, faults }: Asks,
  currency: string,
): Decision[] {
  const found: Decision[] = [];
  for (const { kind, says } of alerts) found.push([says, ...ALERT_WAY[kind]]);
  if (pausesDue.length > 0) {
    found.push([
      `${plural(pausesDue.length, "pause")} to look at again: ${named(pausesDue)}.`,
      pausesDue.length === 1 ? `planogram?q=${encodeURIComponent(pausesDue[0]!.name)}` : "planogram",
      "Look at them",
    ]);
  }
  if (exclusionsDue.all > 0) {
    const waiting =
      exclusionsDue.waiting > 0
        ? `; ${exclusionsDue.waiting} of them ${exclusionsDue.waiting === 1 ? "waits" : "wait"} in the basket`
        : "";
    found.push([
      `${plural(exclusionsDue.all, "exclusion")} to look at again${waiting}.`,
      "exclusions?shown=due",
      "Review them",
    ]);
  }
  if (placementsDue) {
    found.push([
      `A look at placements is due: nobody judged ${plural(placementsDue.placements, "placement")} with ${formatShare(placementsDue.share)} of the impressions in partner media.`,
      "exclusions/placements",
      "Review placements",
    ]);
  }
  if (experimentsOver.length > 0) {
    found.push([
      `The days of ${plural(experimentsOver.length, "experiment")} are over: ${named(experimentsOver)}. Somebody settles what becomes of the change.`,
      "experiments",
      "Settle it",
    ]);
  }
  if (runDry.length > 0) {
    const [first] = runDry;
    found.push([
      `${plural(runDry.length, "campaign")} ${runDry.length === 1 ? "runs" : "run"} out of money before the day is over: ${named(runDry)}. ${first!.name} stops at about ${clock(first!.hour)} on ${first!.days} of ${first!.of} days.`,
      "budgets",
      "Look at budgets",
    ]);
  }
  for (const { label, items, cost } of faults) {
    found.push([
      `${label}: ${plural(items, "item")}, ${formatMoney(cost, currency)} in the last 30 days.`,
      "catalogue/faults",
      "Repair",
    ]);
  }
  return found;
}

/** Where a day begins: what is missing on the way round the loop, and what asks for a decision. */
export default function Today() {
  const { slug, currency, goal } = useWorkspace();
  const [days] = useDays();
  const apiPath = useApiPath();
  const steps = useApi<Steps>(apiPath("set-up"));
  const till = useApi<TillStrip>(apiPath(`till?days=${days}`));
  const forgotten = useApi<Forgotten>(apiPath("forgotten"));
  const shelves = useApi<Slice>(apiPath(`results?level=shelf&days=${days}`));
  const sets = useShelfSets();
  const outOfStep = useApi<OutOfStep[]>(apiPath("planograms/out-of-step"));
  const asks = useApi<Asks>(apiPath("asks"));
  if (!steps.data || !till.data) return <PageWaiting title="Today" what="today" error={steps.error ?? till.error} />;
  // "Nothing" is said only once everything that could ask has answered.
  const isKnown = [forgotten, shelves, sets, outOfStep, asks].every(({ isPending }) => !isPending);
  const list: [isDone: boolean, title: string, text: string, href: string, action: string][] = [
    [
      steps.data.catalogue,
      "Bring the catalogue in",
      "Upload a feed file and check the proposed columns.",
      "catalogue?upload=true",
      "Upload a feed",
    ],
    [
      steps.data.campaigns || steps.data.basket > 0,
      "Plan the structure",
      "Split the catalogue into campaigns and groups; every remainder stays closed.",
      "planogram?plan=new",
      "Plan campaigns",
    ],
    [steps.data.campaigns, "Send it", "Read the changes in words, then dispatch.", "dispatch", "Review the basket"],
    [
      steps.data.results,
      "Get results",
      "Run some days of the test market, or read in reports of your own account.",
      "results/market",
      "Run the market",
    ],
    [steps.data.shelves, "Look at the shelves", "See who brings sales and who only costs.", "shelves", "Open shelves"],
    [
      steps.data.stocktake,
      "Take stock",
      "What is wrong in sentences, the worst chapter first, and the moves with most money.",
      "stocktake",
      "Take stock",
    ],
  ];
  const next = list.findIndex(([isDone]) => !isDone);
  const onlyStock = next === list.length - 1;
  const cold = shelves.data?.lines.find((line) => line.key === "cold");
  const hot = shelves.data?.lines.find((line) => line.key === "hot");
  const decisions: Decision[] = [];
  if (till.data.leaks > 0) {
    decisions.push([
      `${plural(till.data.leaks, "open remainder")} ${till.data.leaks === 1 ? "bids" : "bid"} on whatever nobody named.`,
      "planogram?plan=new",
      "Plan campaigns that close it",
    ]);
  }
  if (cold && cold.sums.cost > 0) {
    decisions.push([
      `The cold shelf took ${formatMoney(cold.sums.cost, currency)} in ${days} days and brought ${formatMoney(cold.sums.revenue, currency)}.`,
      `catalogue?shelf=${STARTING_SET}/cold&sort=-cost&days=${days}`,
      "Look at its items",
    ]);
  }
  if (hot && hot.gap !== null && hot.gap > 0) {
    decisions.push([
      `The hot shelf brings ${(100 * (hot.salesShare ?? 0)).toFixed(0)} % of ad sales on ${(100 * (hot.spendShare ?? 0)).toFixed(0)} % of the spend.`,
      `catalogue?shelf=${STARTING_SET}/hot&sort=-revenue&days=${days}`,
      "Give it more",
    ]);
  }
  if (asks.data) decisions.push(...askedFor(asks.data, currency));
  for (const { definition, held } of sets.data ?? []) {
    if (!held) continue;
    decisions.push([
      `${plural(held.moved, "item")} would change shelf in “${definition.name}”, more than it lets pass.`,
      `shelves?set=${definition.key}`,
      "Look at them",
    ]);
  }
  if (forgotten.data && forgotten.data.total > 0 && steps.data.campaigns) {
    decisions.push([
      `${plural(forgotten.data.total, "item")} without a home: ${forgottenWords(forgotten.data)}.`,
      replanPath(forgotten.data),
      "Plan them in",
    ]);
  }
  for (const { name, changes, ...items } of outOfStep.data ?? []) {
    decisions.push([
      `The account is out of step with “${name}”: ${stepWords(items)}, ${plural(changes, "change")}.`,
      "planogram",
      "Look at them",
    ]);
  }
  if (onlyStock) {
    decisions.push([
      "Nobody took stock of this account yet: what is wrong in sentences, and what each costs a month.",
      "stocktake",
      "Take stock",
    ]);
  }
  if (till.data.basket > 0)
    decisions.push([`${plural(till.data.basket, "change")} in the basket.`, "dispatch", "Review and send"]);

  const lines = (shelves.data?.lines ?? []).filter((line) => line.sums.cost > 0);
  const scale = Math.max(0.01, ...lines.flatMap((line) => [line.spendShare ?? 0, line.salesShare ?? 0]));
  return (
    <div className="space-y-4">
      <PageHead
        title="Today"
        facts={
          till.data.resultsTo
            ? `Results to ${till.data.resultsTo} · return ${till.data.roas?.toFixed(2) ?? "–"} of ${goal} over ${days} days · ${formatCount(till.data.items)} items`
            : `${formatCount(till.data.items)} items · no results yet`
        }
      />
      <TodayTabs />
      {next >= 0 && !onlyStock && (
        <Surface title="Your first round">
          <ol className="space-y-2">
            {list.map(([isDone, title, text, href, action], i) => (
              <li key={title} className="flex items-center gap-3">
                {isDone ? (
                  <Check aria-label="Done" className="size-4 text-petrol" />
                ) : (
                  <Circle aria-label="To do" className="size-4 text-soft" />
                )}
                <span className="flex-1">
                  <b>{title}.</b> <span className="text-soft">{text}</span>
                </span>
                <Link className={buttonClasses(i === next ? "ember" : "plain")} href={`/w/${slug}/${href}`}>
                  {action}
                </Link>
              </li>
            ))}
          </ol>
        </Surface>
      )}
      <Surface title="Asks for a decision">
        {!isKnown && <p className="text-soft">Looking what else asks …</p>}
        {isKnown && decisions.length === 0 && <p className="text-soft">Nothing right now.</p>}
        {decisions.length > 0 && (
          <ul className="divide-y divide-line">
            {decisions.map(([text, href, action]) => (
              <li key={text} className="flex items-center gap-3 py-2">
                <span className="flex-1 num">{text}</span>
                <Link className={buttonClasses("plain")} href={`/w/${slug}/${href}`}>
                  {action}
                </Link>
              </li>
            ))}
          </ul>
        )}
      </Surface>
      {till.data.resultsTo && <TopMoves />}
      {lines.length > 0 && (
        <Surface title={`Who takes, who brings: the last ${days} days by shelf`}>
          <table className="w-full">
            <tbody>
              {lines.map((line) => (
                <tr key={line.key} className="border-b border-line/60 last:border-0">
                  <th scope="row" className="w-56 py-1.5 text-left font-semibold">
                    {line.name}
                  </th>
                  <td className="text-right num">{formatMoney(line.sums.cost, currency)} spend</td>
                  <td className="text-right num">{formatMoney(line.sums.revenue, currency)} sales</td>
                  <td className="text-right font-semibold num">
                    {formatMetric("roas", METRICS.roas.of(line.sums), currency)}
                  </td>
                  <td className="w-64 text-center">
                    <BalanceBar spendShare={line.spendShare} salesShare={line.salesShare} scale={scale} />
                  </td>
                  <td className="w-24 text-right">
                    <Gap gap={line.gap} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Surface>
      )}
    </div>
  );
}

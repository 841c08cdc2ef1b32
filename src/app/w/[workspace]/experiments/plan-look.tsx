"use client";

import { MOST_DAYS, type Definition } from "@/core/experiments/definition";
import { MEASURES } from "@/core/experiments/measures";
import { amountInWords } from "@/core/experiments/verdict";
import { formatCount, plural } from "@/core/kit/format";
import type { ArmBefore, ExperimentPlan } from "@/server/experiments/plan";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";

/** What an experiment would be: its arms, what it can find, and what it changes. */
export function PlanLook({ definition, seed }: { definition: Definition | null; seed: string }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  // A name and a thought change nothing of it.
  const asked = useSettled(JSON.stringify(definition && { ...definition, name: "Look", hypothesis: "" }), 300);
  const question = JSON.parse(asked) as Definition | null;
  const look = useAsk<ExperimentPlan>(apiPath("experiments/plan"), question && { definition: question, seed }, {
    isLong: true,
    enabled: question !== null && definition !== null,
    placeholderData: (before) => before,
  });
  const plan = look.data;
  return (
    <div
      role="status"
      aria-label="What the experiment would be"
      className="min-h-36 space-y-2 rounded-md bg-raised px-3 py-2 text-sm num"
    >
      {definition === null ? (
        <p className="text-soft">Fill in what is marked first.</p>
      ) : look.error ? (
        <p className="text-ember-strong">
          {look.error.failure.message} {look.error.failure.hint}
        </p>
      ) : !plan ? (
        <p className="text-soft">Working it out …</p>
      ) : (
        <PlanWords plan={plan} definition={definition} currency={currency} />
      )}
    </div>
  );
}

function PlanWords({ plan, definition, currency }: { plan: ExperimentPlan; definition: Definition; currency: string }) {
  const { measure, least } = definition;
  const amount = (value: number) => amountInWords(measure, value, currency);
  const { left, daysToFind, leastFound } = plan;
  const notIn = [
    ...(left.quiet > 0 ? [`${formatCount(left.quiet)} without a click in ${plan.beforeDays} days`] : []),
    ...(left.noMargin > 0 ? [`${plural(left.noMargin, "item")} whose margin is not known`] : []),
    ...(left.odd > 0 ? ["an odd one"] : []),
    ...(left.unknown.length > 0
      ? [`${plural(left.unknown.length, "ID")} that no item has: ${left.unknown.slice(0, 5).join(", ")}`]
      : []),
  ];
  return (
    <>
      <p className="font-semibold">
        {daysToFind === null || daysToFind > MOST_DAYS
          ? `Not with this traffic: ${amount(least)} a day can’t be told from luck ${daysToFind === null ? "in any number of days" : "in half a year"}.`
          : daysToFind <= plan.days
            ? `An effect of ${amount(least)} a day is found four times of five after ${plural(daysToFind, "day")}.`
            : `${plural(plan.days, "day")} are too few for ${amount(least)} a day: it takes ${plural(daysToFind, "day")}.`}
      </p>
      <p>
        {leastFound === null
          ? "So few and uneven pairs find no effect at all; take more or smaller units."
          : `In ${plural(plan.days, "day")} ${amount(leastFound)} a day and more is found, of ${amount(plan.broughtADay)} ${MEASURES[measure].inWords} a day ${plan.arms ? "in the arm with the change" : "in all"} now.`}
      </p>
      {plan.arms && <Arms arms={plan.arms} measure={measure} currency={currency} />}
      <p>
        {plural(plan.pairs, "pair")}
        {plan.arms
          ? `, matched by the last ${plan.beforeDays} days; a coin says who goes with the change`
          : " of the same weekday; a coin says which one goes with the change"}
        . {plural(plan.changes, "record")} change{plan.changes === 1 ? "s" : ""}
        {plan.arms ? "." : ", switched on and off at the channel by themselves before each day, and back at the end."}
      </p>
      {notIn.length > 0 && <p className="text-soft">Not in it: {notIn.join("; ")}.</p>}
      {plan.warnings.map((warning) => (
        <p key={warning} className="text-ember-strong">
          {warning}
        </p>
      ))}
    </>
  );
}

const SHOWN = ["cost", "revenue", "clicks"] as const;

function Arms({
  arms,
  measure,
  currency,
}: {
  arms: NonNullable<ExperimentPlan["arms"]>;
  measure: Definition["measure"];
  currency: string;
}) {
  const shown = [...new Set([...SHOWN, measure])];
  const cells = (arm: ArmBefore) =>
    shown.map((key) => (arm.brought[key] === null ? "–" : amountInWords(key, arm.brought[key], currency)));
  return (
    <table className="w-full">
      <caption className="sr-only">What the arms brought a day before</caption>
      <thead>
        <tr className="text-left text-soft">
          <th className="font-normal">A day before</th>
          <th className="text-right font-normal">Units</th>
          <th className="text-right font-normal">Items</th>
          {shown.map((key) => (
            <th key={key} className="text-right font-normal">
              {MEASURES[key].label}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {(["with", "without"] as const).map((side) => (
          <tr key={side}>
            <th scope="row" className="text-left font-normal">
              {side === "with" ? "With the change" : "Without"}
            </th>
            <td className="text-right">{formatCount(arms[side].units)}</td>
            <td className="text-right">{arms[side].items > 0 ? formatCount(arms[side].items) : "–"}</td>
            {cells(arms[side]).map((cell, index) => (
              <td key={index} className="text-right">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { dayLabel, formatDay } from "@/core/kit/days";
import { formatMoney, millsToField, parseMoney } from "@/core/kit/money";
import type { MoneyDesk } from "@/server/budgets/desk";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";

/** Spend through the month against what is planned for it, what is left a day, and which stop comes first. */
export function MonthStrip({ month }: { month: MoneyDesk["month"] }) {
  const { currency } = useWorkspace();
  const [isOpen, setOpen] = useState(false);
  const name = new Date(month.from * 86_400_000).toLocaleDateString("en-GB", { month: "long", timeZone: "UTC" });
  const limit = month.plan ?? month.ahead;
  const width = (mills: number) => `${Math.min(100, Math.max(0, (100 * mills) / Math.max(1, limit, month.ahead)))}%`;
  return (
    <section aria-label="This month" className="rounded-lg border border-line bg-surface px-4 py-2 text-sm num">
      <div className="flex items-center gap-3">
        <h2 className="font-semibold">{name}</h2>
        <div className="relative h-3 flex-1 rounded-full bg-raised" aria-hidden>
          <div className="absolute inset-y-0 left-0 rounded-full bg-line" style={{ width: width(month.ahead) }} />
          <div className="absolute inset-y-0 left-0 rounded-full bg-spend" style={{ width: width(month.spent) }} />
          {month.plan !== null && (
            <div className="absolute -inset-y-1 w-0.5 bg-ember" style={{ left: width(month.plan) }} title="The plan" />
          )}
        </div>
        <Button onClick={() => setOpen(true)}>{month.plan === null ? "Plan the month …" : "Change the plan …"}</Button>
      </div>
      <p className="mt-1">{monthWords(month, currency)}</p>
      {isOpen && <PlanDialog month={month} onClose={() => setOpen(false)} />}
    </section>
  );
}

/** The month in sentences: spent against plan, where it ends at this pace, what is left a day, which stop is first. */
function monthWords(month: MoneyDesk["month"], currency: string): string {
  const { plan, due, spent, ahead, daysLeft, leftADay, usedUpOn, today, budgets, cap } = month;
  const money = (mills: number) => formatMoney(mills, currency);
  const stop =
    cap !== null && cap < budgets ? `The day cap of ${money(cap)} stops` : `Budgets of ${money(budgets)} a day stop`;
  const so = `${money(spent)} spent until ${dayLabel(today)}`;
  if (plan === null) return `${so}; at this pace about ${money(ahead)} by the end. ${stop} it, nothing else.`;
  const apart = due === null ? 0 : spent - due;
  const against =
    Math.abs(apart) < AS_PLANNED * plan
      ? "as planned"
      : `${money(Math.abs(apart))} ${apart > 0 ? "more" : "less"} than planned until then`;
  const end =
    usedUpOn === null
      ? `At this pace ${money(ahead)} of ${money(plan)} by the end`
      : usedUpOn <= today
        ? `The plan of ${money(plan)} is used up`
        : `At this pace the plan of ${money(plan)} is used up on ${dayLabel(usedUpOn)}`;
  const lasts =
    leftADay !== null && leftADay < (cap !== null && cap < budgets ? cap : budgets)
      ? `${stop} only beyond that`
      : `${stop} before the plan does`;
  const days = daysLeft === 1 ? "the last day" : `each of the last ${daysLeft} days`;
  const left = leftADay === null ? "" : `; ${money(leftADay)} are left for ${days}`;
  return `${so}, ${against}. ${end}${left}. ${lasts}.`;
}

/** Spend within this share of the plan is as planned. */
const AS_PLANNED = 0.02;

function PlanDialog({ month, onClose }: { month: MoneyDesk["month"]; onClose: () => void }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [text, setText] = useState(month.plan === null ? "" : millsToField(month.plan));
  const [over, setOver] = useState(String(month.set?.over ?? 0));
  const parsed = parseMoney(text);
  const overNumber = Number(over);
  const isOver = over.trim() !== "" && overNumber >= 0 && overNumber <= 100;
  const isFit = parsed.ok && parsed.mills > 0 && isOver;
  const send = async (mills: number | null) => {
    try {
      const body = { month: formatDay(month.from).slice(0, 7), mills, over: mills === null ? 0 : overNumber };
      await apiSend(apiPath("budgets/month"), body, "PUT");
      toast.success(mills === null ? "The plan is taken away" : "The plan is set");
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Dialog open onClose={onClose} title="What the month may cost">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isFit && parsed.ok) void send(parsed.mills);
        }}
      >
        <Field
          label={`${currency} in the whole month`}
          error={text !== "" && !parsed.ok ? "An amount such as 4500." : undefined}
        >
          {(props) => (
            <TextInput
              {...props}
              autoFocus
              inputMode="decimal"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        <Field label="Per cent that may be spent over it" error={isOver ? undefined : "From 0 to 100."}>
          {(props) => (
            <TextInput {...props} inputMode="decimal" value={over} onChange={(event) => setOver(event.target.value)} />
          )}
        </Field>
        <p className="text-sm text-soft">
          The plan stops nothing by itself: it says what is left a day. A day cap or lower budgets stop.
          {month.set && ` Set by ${month.set.who}.`}
        </p>
        <div className="flex justify-end gap-2">
          {month.plan !== null && <Button onClick={() => void send(null)}>Take the plan away</Button>}
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={!isFit}>
            Set the plan
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

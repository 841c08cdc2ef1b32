"use client";

import { useState } from "react";
import { SHARE_WAYS, type ShareWay } from "@/core/budgets/share-total";
import { formatMoney, millsToField, parseMoney } from "@/core/kit/money";
import type { SharedMoney } from "@/server/budgets/desk";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ChoiceSelect, Field, TextInput } from "@/ui/field";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { useEdit } from "../use-edit";

/** A number of a field: what is typed, null for an empty one that means any, undefined where it is no number in reach. */
function numberOf(text: string, least: number, most: number): number | null | undefined {
  if (text.trim() === "") return null;
  const number = Number(text.replace(",", "."));
  return number >= least && number <= most ? number : undefined;
}

/** Shares a total out over running campaigns: how, within what limits, what each gets, and what is expected of it. */
export function ShareDialog({
  campaigns,
  onClose,
}: {
  campaigns: { key: string; name: string; dailyBudget: number }[];
  onClose: () => void;
}) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const edit = useEdit(true);
  const [total, setTotal] = useState(millsToField(campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0)));
  const [way, setWay] = useState<ShareWay>("next");
  const [step, setStep] = useState("50");
  const [room, setRoom] = useState("20");
  const [parts, setParts] = useState<Record<string, string>>({});
  const parsed = parseMoney(total);
  const [stepOf, roomOf] = [numberOf(step, 1, 1000), numberOf(room, 0, 1000)];
  const numbers = Object.fromEntries(campaigns.map(({ key }) => [key, numberOf(parts[key] ?? "", 0, 1_000_000)]));
  const isFit =
    parsed.ok &&
    parsed.mills > 0 &&
    stepOf !== undefined &&
    roomOf !== undefined &&
    Object.values(numbers).every((one) => one !== undefined);
  const ask = {
    total: parsed.ok ? parsed.mills : 0,
    ...{ way, step: stepOf ?? null, room: roomOf ?? null, keys: campaigns.map(({ key }) => key) },
    ...(way === "hand"
      ? { parts: Object.fromEntries(Object.entries(numbers).flatMap(([key, part]) => (part ? [[key, part]] : []))) }
      : {}),
  };
  const asked = useSettled(JSON.stringify(ask), 300);
  const look = useAsk<SharedMoney>(apiPath("budgets/share"), JSON.parse(asked), {
    isLong: true,
    enabled: isFit,
    placeholderData: (before) => before,
  });
  const lines = look.error ? [] : (look.data?.lines ?? []);
  const toOf = new Map(lines.map((line) => [line.key, line]));
  const changed = lines.filter(({ from, to }) => from !== to);
  const sum = (of: "spend" | "sales", when: "from" | "to") => lines.reduce((all, line) => all + line[of][when], 0);
  const money = (mills: number) => formatMoney(mills, currency);
  const send = () =>
    edit(
      {
        action: "amounts",
        of: "budget",
        amounts: changed.map(({ key, to }) => ({
          key,
          mills: to,
          reason: `${money(ask.total)} shared out: ${SHARE_WAYS[way].toLowerCase()}`,
        })),
      },
      onClose,
    );
  return (
    <Dialog open wide onClose={onClose} title="Share a total out">
      <div className="grid grid-cols-[1fr_1.8fr_1fr_1fr] gap-3">
        <Field label={`${currency} a day in all`} error={parsed.ok ? undefined : "An amount such as 200."}>
          {(props) => (
            <TextInput
              {...props}
              inputMode="decimal"
              value={total}
              onChange={(event) => setTotal(event.target.value)}
            />
          )}
        </Field>
        <Field label="How">
          {(props) => <ChoiceSelect {...props} choices={SHARE_WAYS} value={way} onChange={setWay} />}
        </Field>
        <Field label="Largest step, % (or any)" error={stepOf === undefined ? "From 1 to 1000." : undefined}>
          {(props) => (
            <TextInput {...props} inputMode="decimal" value={step} onChange={(event) => setStep(event.target.value)} />
          )}
        </Field>
        <Field label="Over a full day, % (or any)" error={roomOf === undefined ? "From 0 to 1000." : undefined}>
          {(props) => (
            <TextInput {...props} inputMode="decimal" value={room} onChange={(event) => setRoom(event.target.value)} />
          )}
        </Field>
      </div>
      <div className="mt-3 max-h-[44vh] overflow-y-auto rounded-md border border-line">
        <table className="w-full text-sm num" aria-label="What each would get">
          <thead className="sticky top-0 bg-raised text-xs text-soft">
            <tr>
              <th className="px-3 py-1.5 text-left font-normal">Campaign</th>
              {way === "hand" && <th className="text-right font-normal">Part</th>}
              <th className="text-right font-normal">Budget now</th>
              <th className="text-right font-normal">Then</th>
              <th className="text-right font-normal">Spend a day</th>
              <th className="px-3 text-right font-normal">Sales a day</th>
            </tr>
          </thead>
          <tbody>
            {campaigns.map(({ key, name, dailyBudget }) => {
              const line = toOf.get(key);
              return (
                <tr key={key} className="border-t border-line/60">
                  <td className="px-3 py-1">{name}</td>
                  {way === "hand" && (
                    <td className="text-right">
                      <TextInput
                        aria-label={`Part of ${name}`}
                        inputMode="decimal"
                        className="w-20! text-right"
                        value={parts[key] ?? ""}
                        onChange={(event) => setParts({ ...parts, [key]: event.target.value })}
                      />
                    </td>
                  )}
                  <td className="text-right">{money(dailyBudget)}</td>
                  <td className={`text-right ${line && line.to !== line.from ? "font-semibold" : "text-soft"}`}>
                    {line ? money(line.to) : "–"}
                    {line?.limitedBy && (
                      <span className="block text-xs leading-tight font-normal text-soft">
                        {line.limitedBy === "step" ? "held by the step" : "a full day’s worth"}
                      </span>
                    )}
                  </td>
                  <td className="text-right text-soft">
                    {line ? `${money(line.spend.from)} → ${money(line.spend.to)}` : "–"}
                  </td>
                  <td className="px-3 text-right text-soft">
                    {line ? `${money(line.sales.from)} → ${money(line.sales.to)}` : "–"}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <div
        role="status"
        aria-label="What is expected"
        className="mt-3 min-h-16 space-y-1 rounded-md bg-raised px-3 py-2 text-sm num"
      >
        {look.error ? (
          <p className="text-ember-strong">
            {look.error.failure.message} {look.error.failure.hint}
          </p>
        ) : !look.data || !isFit ? (
          <p className="text-soft">{isFit ? "Working it out …" : "Mend what is marked first."}</p>
        ) : (
          <>
            <p>
              At the bids as they stand: spend {money(sum("spend", "from"))} → {money(sum("spend", "to"))} a day, sales{" "}
              {money(sum("sales", "from"))} → {money(sum("sales", "to"))}.
            </p>
            {look.data.kept >= 10 && (
              <p>
                {money(look.data.kept)} of it are not given:{" "}
                {way === "next" ? "more would not bring itself back, or the limits hold it." : "the limits hold it."}
              </p>
            )}
            {look.data.next !== null && look.data.next > 1.005 && (
              <p>
                One {currency} more a day in all would bring {look.data.next.toFixed(2)} after costs.
              </p>
            )}
          </>
        )}
      </div>
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" disabled={!isFit || changed.length === 0 || look.isFetching} onClick={() => void send()}>
          Put {changed.length === 1 ? "1 budget" : `${changed.length} budgets`} into the basket
        </Button>
      </div>
    </Dialog>
  );
}

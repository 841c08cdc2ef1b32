"use client";

import { clock } from "@/core/kit/clock";
import { X } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { shortKey } from "@/core/account/keys";
import { plural } from "@/core/kit/format";
import { formatMoney, parseMoney } from "@/core/kit/money";
import type { BudgetsView } from "@/server/budgets/pools";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { toastError } from "../../../_lib/api";
import { useRefresh, useWorkspace } from "../../../_lib/workspace";
import { MoneyCell } from "../money-cell";
import { useChange, useEdit } from "../use-edit";

const CAP = "day-cap";

/** Pools and the day cap: what they hold, what draws on them, when each stop comes. */
export function Purses({ view: { pools, cap, campaigns } }: { view: BudgetsView }) {
  const { currency } = useWorkspace();
  const refresh = useRefresh();
  const change = useChange();
  const edit = useEdit();
  const [making, setMaking] = useState<"pool" | "cap" | null>(null);
  const money = (mills: number) => formatMoney(mills, currency);
  const send = async (body: object) => {
    try {
      const { changes } = await change("account/records", body);
      toast.success(`${plural(changes, "change")} in the basket`);
      setMaking(null);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const lines = [
    ...(cap
      ? [{ ...cap, key: CAP, name: "Day cap, whole workspace", membersBudget: cap.campaignsBudget, members: -1 }]
      : []),
    ...pools,
  ];
  return (
    <section aria-label="Pools and day cap" className="rounded-lg border border-line bg-surface">
      <div className="flex items-center gap-2 border-b border-line px-4 py-2">
        <h2 className="mr-auto font-semibold">Pools and day cap</h2>
        {!cap && <Button onClick={() => setMaking("cap")}>Set a day cap</Button>}
        <Button onClick={() => setMaking("pool")}>Make a pool</Button>
      </div>
      {lines.length === 0 ? (
        <p className="px-4 py-3 text-sm text-soft">
          None yet. A pool is one budget that several campaigns draw on beside their own; a day cap is the most the
          whole workspace spends in a day.
        </p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="px-4 py-1 font-normal">Name</th>
              <th className="text-right font-normal">A day</th>
              <th className="text-right font-normal">Its campaigns’ own budgets</th>
              <th className="text-right font-normal">Spent a day</th>
              <th className="text-right font-normal">Stops</th>
              <td className="w-10" />
            </tr>
          </thead>
          <tbody>
            {lines.map(({ key, name, dailyBudget, membersBudget, members, spent, dryDays, days, dryAt }) => (
              <tr key={key} className="border-t border-line/70 num">
                <td className="px-4 py-1.5">
                  {name}
                  {members >= 0 && (
                    <span className="text-soft">
                      {" · "}
                      {members === 0 ? "no campaign draws on it: pick some below" : plural(members, "campaign")}
                    </span>
                  )}
                </td>
                <td className="text-right">
                  <MoneyCell
                    label={`A day of ${name}`}
                    value={dailyBudget}
                    onSave={(mills) => edit({ action: "budget", keys: [key], op: { how: "set", mills } })}
                  />
                </td>
                <td className="text-right">{money(membersBudget)}</td>
                <td className="text-right">{money(spent)}</td>
                <td className="text-right">
                  {days === 0
                    ? "–"
                    : dryDays === 0
                      ? spent > 0
                        ? "would not have stopped"
                        : "nothing drawn"
                      : `${plural(dryDays, "day")} of ${days}${dryAt === null ? "" : `, at about ${clock(dryAt)}`}`}
                </td>
                <td className="px-2 text-center">
                  <button
                    type="button"
                    aria-label={`Remove ${name}`}
                    title="Remove"
                    className="rounded p-1 text-soft hover:bg-raised"
                    onClick={() => void remove(key)}
                  >
                    <X aria-hidden className="size-3.5" />
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {making && (
        <NewPurse
          kind={making}
          taken={new Set(pools.map(({ name }) => name))}
          onMake={make}
          onClose={() => setMaking(null)}
        />
      )}
    </section>
  );

  function make(name: string, dailyBudget: number): void {
    const record =
      making === "cap"
        ? { type: "dayCap", key: CAP, dailyBudget }
        : {
            type: "pool",
            key: shortKey(`pool:${name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "-")}`),
            name,
            dailyBudget,
          };
    void send({ put: [record], reason: making === "cap" ? "Day cap set" : `Pool ${name} made` });
  }

  async function remove(key: string): Promise<void> {
    // What draws on it lets go first; else it would draw on nothing.
    const members = campaigns.filter(({ pool }) => pool === key).map((campaign) => campaign.key);
    if (members.length > 0 && !(await edit({ action: "pool", keys: members, pool: null }))) return;
    try {
      await change("account/records", {
        remove: [key],
        reason: key === CAP ? "Day cap removed" : "Pool removed",
      });
      await refresh();
    } catch (error) {
      toastError(error);
    }
  }
}

function NewPurse({
  kind,
  taken,
  onMake,
  onClose,
}: {
  kind: "pool" | "cap";
  taken: ReadonlySet<string>;
  onMake: (name: string, mills: number) => void;
  onClose: () => void;
}) {
  const { currency } = useWorkspace();
  const [name, setName] = useState("");
  const [text, setText] = useState("");
  const parsed = parseMoney(text);
  const isTaken = taken.has(name.trim());
  const isFit = parsed.ok && parsed.mills > 0 && (kind === "cap" || (name.trim() !== "" && !isTaken));
  return (
    <Dialog open onClose={onClose} title={kind === "cap" ? "Set a day cap" : "Make a pool"}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isFit && parsed.ok) onMake(name.trim(), parsed.mills);
        }}
      >
        {kind === "pool" && (
          <Field label="Name" {...(isTaken ? { error: "There is a pool with this name." } : {})}>
            {(props) => (
              <TextInput {...props} autoFocus value={name} onChange={(event) => setName(event.target.value)} />
            )}
          </Field>
        )}
        <Field label={`${currency} a day`} {...(text !== "" && !parsed.ok ? { error: "An amount such as 120." } : {})}>
          {(props) => (
            <TextInput {...props} inputMode="decimal" value={text} onChange={(event) => setText(event.target.value)} />
          )}
        </Field>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={!isFit}>
            Put into the basket
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

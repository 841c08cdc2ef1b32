"use client";

import { useState } from "react";
import { toast } from "sonner";
import { parseMoney } from "@/core/kit/money";
import { standingOrderSchema, type StandingOrder } from "@/core/moves/standing-order";
import { PROPOSER_KEYS, PROPOSERS } from "@/core/proposers/proposers";
import type { BudgetsView } from "@/server/budgets/pools";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox, ChoiceSelect, Field, TextInput } from "@/ui/field";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { OrderLookWords } from "./look";

const DIRECTIONS = { both: "raised and lowered", raise: "raised alone", lower: "lowered alone" } as const;
const EVERY = { "1": "every day of results", "7": "every week", "14": "every two weeks" } as const;

/** An amount or a number that may be left empty: undefined where it can't be read. */
const money = (text: string) => {
  if (text.trim() === "") return null;
  const parsed = parseMoney(text);
  return parsed.ok ? parsed.mills : undefined;
};
const number = (text: string) => {
  if (text.trim() === "") return null;
  const value = Number(text.replace(",", "."));
  return Number.isFinite(value) ? value : undefined;
};

/** A new standing order: which moves, within what limits, what stops it, and what it would do now. */
export function OrderDialog({ onClose }: { onClose: () => void }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const campaigns = useApi<BudgetsView>(apiPath("budgets"));
  const [name, setName] = useState("");
  const [kinds, setKinds] = useState<ReadonlySet<string>>(new Set(["item-bids"]));
  const [every, setEvery] = useState<keyof typeof EVERY>("7");
  const [direction, setDirection] = useState<StandingOrder["direction"]>("both");
  const [never, setNever] = useState<ReadonlySet<string>>(new Set());
  const [text, setText] = useState({ most: "50", step: "30", spend: "5", leastReturn: "", mostSpend: "" });
  const [busy, setBusy] = useState(false);
  const toggled = (set: ReadonlySet<string>, key: string) => {
    const next = new Set(set);
    if (!next.delete(key)) next.add(key);
    return next;
  };
  const read = standingOrderSchema.safeParse({
    name: name.trim() || "Unnamed",
    kinds: [...kinds],
    every: Number(every),
    most: number(text.most),
    step: number(text.step),
    spend: money(text.spend),
    direction,
    never: [...never],
    guard: { leastReturn: number(text.leastReturn), mostSpend: money(text.mostSpend) },
  });
  const faultOf = (key: string) =>
    read.success ? undefined : read.error.issues.some(({ path }) => path.includes(key)) ? FAULTS[key] : undefined;
  const isFit = read.success && name.trim() !== "";
  const submit = async () => {
    if (!isFit) return;
    setBusy(true);
    try {
      await apiSend(apiPath("standing-orders"), read.data);
      toast.success(`“${read.data.name}” watches: nothing goes out before you switch it on`);
      onClose();
    } catch (error) {
      toastError(error);
    }
    await refresh();
    setBusy(false);
  };
  const field = (key: keyof typeof text, label: string) => (
    <Field label={label} error={faultOf(key)}>
      {(props) => (
        <TextInput
          {...props}
          inputMode="decimal"
          value={text[key]}
          onChange={(event) => setText({ ...text, [key]: event.target.value })}
        />
      )}
    </Field>
  );
  return (
    <Dialog open wide onClose={onClose} title="New standing order">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <div className="grid grid-cols-3 gap-3">
          <Field label="Name">
            {(props) => (
              <TextInput
                {...props}
                autoFocus
                maxLength={60}
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            )}
          </Field>
          <Field label="How often">
            {(props) => <ChoiceSelect {...props} choices={EVERY} value={every} onChange={setEvery} />}
          </Field>
          <Field label="Amounts are">
            {(props) => <ChoiceSelect {...props} choices={DIRECTIONS} value={direction} onChange={setDirection} />}
          </Field>
        </div>
        <fieldset>
          <legend className="mb-1 text-sm">Kinds of moves</legend>
          <div className="grid grid-cols-3 gap-1">
            {PROPOSER_KEYS.map((key) => (
              <Checkbox
                key={key}
                label={PROPOSERS[key].name}
                checked={kinds.has(key)}
                onChange={() => setKinds(toggled(kinds, key))}
              />
            ))}
          </div>
          {faultOf("kinds") && <p className="text-sm text-ember-strong">{faultOf("kinds")}</p>}
        </fieldset>
        <div className="grid grid-cols-3 gap-3">
          {field("most", "Moves at a time, at most")}
          {field("step", "Largest step, % (empty: house rules)")}
          {field("spend", `${currency} more a day, at most (empty: any)`)}
          {field("leastReturn", "Stops where the return is below")}
          {field("mostSpend", `Stops where ${currency} a day exceed`)}
        </div>
        <details>
          <summary className="cursor-pointer text-sm">
            Campaigns that it never touches{" "}
            <span className="text-soft">· {never.size === 0 ? "none" : never.size}</span>
          </summary>
          <div className="mt-1 grid max-h-32 grid-cols-3 gap-1 overflow-y-auto">
            {(campaigns.data?.campaigns ?? []).map(({ key, name: label }) => (
              <Checkbox
                key={key}
                label={label}
                checked={never.has(key)}
                onChange={() => setNever(toggled(never, key))}
              />
            ))}
          </div>
        </details>
        <OrderLookWords order={read.success ? read.data : null} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={!isFit || busy}>
            Let it watch
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** What a field that can't be read asks for. */
const FAULTS: Record<string, string> = {
  kinds: "Choose at least one kind of moves.",
  most: "A whole number from 1 to 10000.",
  step: "A percentage from 1 to 400.",
  spend: "An amount such as 5.00.",
  leastReturn: "A return such as 3.5.",
  mostSpend: "An amount such as 200.",
};

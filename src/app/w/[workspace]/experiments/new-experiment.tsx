"use client";

import { useState } from "react";
import { toast } from "sonner";
import { CHANGES, type Design } from "@/core/experiments/changes";
import { definitionSchema, TOGETHER_LABEL, type Definition, type Together } from "@/core/experiments/definition";
import { MEASURE_KEYS, MEASURES, type MeasureKey } from "@/core/experiments/measures";
import { READY_MADE, type ReadyMade } from "@/core/experiments/ready-made";
import { plural } from "@/core/kit/format";
import { parseMoney } from "@/core/kit/money";
import type { BudgetsView } from "@/server/budgets/pools";
import type { Begun } from "@/server/experiments/run";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox, ChoiceSelect, Field, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import { toastError, useApi } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { useChange } from "../use-edit";
import { ChangeFields, changeOf, linesIn, textOf } from "./change-fields";
import type { HandOver } from "./hand-over";
import { PlanLook } from "./plan-look";
import { APART_LABEL } from "./words";

const BY = { all: "all that had clicks", campaign: "those that a campaign serves first", ids: "these IDs" } as const;

/** A new experiment: what to try, on whom, by what to tell, and what that can find in how many days. */
export function NewExperiment({ start, onClose }: { start: HandOver; onClose: () => void }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(true);
  const campaigns = useApi<BudgetsView>(apiPath("budgets"));
  const first = READY_MADE.find(({ key }) => key === start.ready) ?? READY_MADE[0]!;
  const [ready, setReady] = useState<ReadyMade>(first);
  const [text, setText] = useState(() => textOf(start.change ?? first.change));
  const [name, setName] = useState("");
  const [hypothesis, setHypothesis] = useState("");
  const [design, setDesign] = useState<Design>(start.design ?? first.design);
  const [by, setBy] = useState<keyof typeof BY>(start.items ? "ids" : "all");
  const [campaign, setCampaign] = useState("");
  const [ids, setIds] = useState(start.items?.join("\n") ?? "");
  const [together, setTogether] = useState<Together>("category");
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(start.campaigns ?? []));
  const [measure, setMeasure] = useState<MeasureKey>(first.measure);
  const [least, setLeast] = useState("2");
  const [days, setDays] = useState(String(first.days));
  const [stopsForHarm, setStops] = useState(true);
  const [seed] = useState(() => crypto.randomUUID().slice(0, 8));
  const [busy, setBusy] = useState(false);
  const kind = ready.change.kind;
  const isMoney = MEASURES[measure].unit === "money";
  const choose = (key: string) => {
    const next = READY_MADE.find((one) => one.key === key)!;
    setReady(next);
    setText(textOf(next.change));
    setDesign(next.design);
    setMeasure(next.measure);
    setDays(String(next.days));
  };
  const money = parseMoney(least);
  const read = definitionSchema.safeParse({
    ...{ name: name.trim() || ready.label, hypothesis, design, change: changeOf(kind, text) },
    items: by === "all" ? { by } : by === "campaign" ? { by, campaign } : { by, ids: linesIn(ids) },
    ...{ together, campaigns: design === "items" ? [] : [...chosen], measure },
    least: isMoney ? (money.ok ? money.mills : undefined) : Number(least.replace(",", ".")),
    ...{ days: Number(days), stopsForHarm },
  });
  const faultOf = (path: string) =>
    read.success ? undefined : read.error.issues.find((issue) => issue.path[0] === path)?.message;
  const begin = async () => {
    if (!read.success) return;
    setBusy(true);
    try {
      const { changes } = await change<Begun>("experiments", { definition: read.data, seed });
      toast.success(`“${read.data.name}” is in the basket: ${plural(changes, "change")}`, {
        description: "It begins on the first day after it was sent.",
      });
      onClose();
    } catch (error) {
      toastError(error);
    }
    await refresh();
    setBusy(false);
  };
  return (
    <Dialog open wide onClose={onClose} title="New experiment">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void begin();
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <Field label="What to try" hint={ready.question}>
            {(props) => (
              <ChoiceSelect
                {...props}
                autoFocus
                choices={Object.fromEntries(READY_MADE.map(({ key, label }) => [key, label]))}
                value={ready.key}
                onChange={choose}
              />
            )}
          </Field>
          <Field label="Name">
            {(props) => (
              <TextInput
                {...props}
                maxLength={80}
                placeholder={ready.label}
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            )}
          </Field>
        </div>
        <ChangeFields kind={kind} text={text} onChange={setText} error={faultOf("change")} />
        <div className="grid grid-cols-3 gap-3">
          <Field label="Set apart" error={faultOf("design") ?? ""}>
            {(props) => (
              <ChoiceSelect
                {...props}
                choices={
                  Object.fromEntries(CHANGES[kind].designs.map((one) => [one, APART_LABEL[one]])) as Record<
                    Design,
                    string
                  >
                }
                value={design}
                onChange={setDesign}
              />
            )}
          </Field>
          {design === "items" && (
            <>
              <Field label="Which items">
                {(props) => <ChoiceSelect {...props} choices={BY} value={by} onChange={setBy} />}
              </Field>
              <Field label="What stays together">
                {(props) => (
                  <ChoiceSelect {...props} choices={TOGETHER_LABEL} value={together} onChange={setTogether} />
                )}
              </Field>
            </>
          )}
        </div>
        {design === "items" && by === "campaign" && (
          <SearchSelect
            label="Campaign"
            value={campaign}
            choices={(campaigns.data?.campaigns ?? []).map(({ key, name: label }) => ({ value: key, label }))}
            onChange={setCampaign}
          />
        )}
        {design === "items" && by === "ids" && (
          <Field
            label="IDs, one a line"
            hint={`${plural(linesIn(ids).length, "ID")}; copy a column out of a spreadsheet.`}
            error={faultOf("items") ?? ""}
          >
            {(props) => (
              <textarea
                {...props}
                rows={3}
                className="w-full rounded-md border border-line bg-surface px-2 py-1 text-sm"
                value={ids}
                onChange={(event) => setIds(event.target.value)}
              />
            )}
          </Field>
        )}
        {design !== "items" && (
          <Campaigns view={campaigns.data} chosen={chosen} onChange={setChosen} error={faultOf("campaigns")} />
        )}
        <div className="grid grid-cols-3 gap-3">
          <Field label="Told by" error={faultOf("measure") ?? ""}>
            {(props) => (
              <ChoiceSelect
                {...props}
                choices={
                  Object.fromEntries(MEASURE_KEYS.map((key) => [key, MEASURES[key].label])) as Record<
                    MeasureKey,
                    string
                  >
                }
                value={measure}
                onChange={setMeasure}
              />
            )}
          </Field>
          <Field
            label={`Least effect a day that matters${isMoney ? `, ${currency}` : ""}`}
            error={faultOf("least") ? "More than nothing, such as 2.50." : ""}
          >
            {(props) => (
              <TextInput
                {...props}
                inputMode="decimal"
                value={least}
                onChange={(event) => setLeast(event.target.value)}
              />
            )}
          </Field>
          <Field label="Days" error={faultOf("days") ?? ""}>
            {(props) => (
              <TextInput
                {...props}
                inputMode="numeric"
                value={days}
                onChange={(event) => setDays(event.target.value)}
              />
            )}
          </Field>
        </div>
        <Field label="What you think will happen">
          {(props) => (
            <TextInput
              {...props}
              maxLength={400}
              value={hypothesis}
              onChange={(event) => setHypothesis(event.target.value)}
            />
          )}
        </Field>
        <Checkbox
          label="Stop and take it back by itself once harm is sure enough (four to one)"
          checked={stopsForHarm}
          onChange={(event) => setStops(event.target.checked)}
        />
        <PlanLook definition={read.success ? (read.data as Definition) : null} seed={seed} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={!read.success || busy}>
            Put into the basket
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Campaigns({
  view,
  chosen,
  onChange,
  error,
}: {
  view: BudgetsView | undefined;
  chosen: ReadonlySet<string>;
  onChange: (chosen: ReadonlySet<string>) => void;
  error: string | undefined;
}) {
  const all = (view?.campaigns ?? []).map(({ key }) => key);
  const toggle = (key: string) => {
    const next = new Set(chosen);
    if (!next.delete(key)) next.add(key);
    onChange(next);
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">
        Campaigns{" "}
        <button
          type="button"
          className="text-petrol underline"
          onClick={() => onChange(new Set(chosen.size === all.length ? [] : all))}
        >
          {chosen.size === all.length ? "none" : "all"}
        </button>
      </legend>
      <div className="grid max-h-28 grid-cols-3 gap-1 overflow-y-auto">
        {(view?.campaigns ?? []).map(({ key, name }) => (
          <Checkbox key={key} label={name} checked={chosen.has(key)} onChange={() => toggle(key)} />
        ))}
      </div>
      {error && <p className="text-xs font-semibold text-ember">{error}</p>}
    </fieldset>
  );
}

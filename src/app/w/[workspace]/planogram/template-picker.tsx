"use client";

import { useState } from "react";
import { shelfColumn, shelfSetOf } from "@/core/account/records/labels";
import { columnLabel } from "@/core/catalogue/catalogue-columns";
import type { Planogram } from "@/core/planogram/planogram";
import { judgedWords } from "@/core/planogram/judged";
import { TEMPLATES, type Template } from "@/core/planogram/templates";
import { READY_MADE } from "@/core/shelves/ready-made";
import type { SplitField } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { Field, Select } from "@/ui/field";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";

/** Structures to start from, each with when it pays and what it costs; choosing one changes the plan on screen and nothing else. */
export function TemplatePicker({
  draft,
  fields,
  onChange,
}: {
  draft: Planogram;
  fields: SplitField[];
  onChange: (change: Partial<Planogram>) => void;
}) {
  const { goal } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [chosen, setChosen] = useState("");
  // What the structure chosen last changed, as it was: the next one begins there, not at the leavings of this one.
  const [before, setBefore] = useState<Partial<Planogram>>({});
  const [busy, setBusy] = useState(false);
  const template = TEMPLATES.find(({ key }) => key === chosen);
  const judged = template ? judgedWords(template.key) : null;
  const missing = template?.needs.filter((need) => !fields.some(({ by }) => by === need)) ?? [];
  const choose = (key: string, added: string[] = []) => {
    setChosen(key);
    const found = TEMPLATES.find((one) => one.key === key);
    const isThere = (name: string) => added.includes(name) || fields.some(({ by }) => by === name);
    if (!found?.needs.every(isThere)) return;
    const plain = { ...draft, ...before };
    // Rungs of fields that this catalogue has not, such as a second level of categories, drop out with their lines.
    const change = found.change(plain);
    const ladder = (change.ladder ?? []).filter(({ by }) => isThere(by));
    const line = (at = 0) => Math.min(at, ladder.length);
    const next: Partial<Planogram> = {
      ...change,
      ...{ name: found.name, ladder, campaignLine: line(change.campaignLine), adGroupLine: line(change.adGroupLine) },
      ...{ budgets: undefined, each: undefined },
    };
    setBefore(Object.fromEntries(Object.keys(next).map((key) => [key, plain[key as keyof Planogram]])));
    onChange({ ...before, ...next });
  };
  const addSets = async (template: Template, sets: string[]) => {
    setBusy(true);
    try {
      for (const set of sets) {
        const ready = READY_MADE.find(({ key }) => key === set);
        if (ready) await apiSend(apiPath("shelf-sets"), ready.make(goal), "PUT");
      }
      await refresh();
      choose(template.key, sets.map(shelfColumn));
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const sets = missing.flatMap((need) => shelfSetOf(need) ?? []);
  return (
    <div>
      <Field label="Start from">
        {(props) => (
          <Select {...props} value={chosen} onChange={(event) => choose(event.target.value)}>
            <option value="">what stands below</option>
            {TEMPLATES.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {template && (
        <div className="mt-2 space-y-1 text-sm">
          <p>{template.pays}</p>
          <p className="text-soft">{template.costs}</p>
          {judged && <p className={judged.isWarning ? "font-semibold text-ember" : "text-soft"}>{judged.text}</p>}
          {missing.length > sets.length && (
            <p className="font-semibold text-ember">
              The catalogue has not got what it divides by:{" "}
              {missing
                .filter((need) => !shelfSetOf(need))
                .map((need) => columnLabel(need).toLowerCase())
                .join(", ")}
              .
            </p>
          )}
          {sets.length > 0 && (
            <p className="flex flex-wrap items-center gap-2">
              <span className="font-semibold text-ember">It needs a shelf set that is not kept yet.</span>
              <Button disabled={busy} onClick={() => void addSets(template, sets)}>
                {busy ? "Making it …" : `Add “${READY_MADE.find(({ key }) => key === sets[0])?.name ?? sets[0]}”`}
              </Button>
            </p>
          )}
        </div>
      )}
    </div>
  );
}

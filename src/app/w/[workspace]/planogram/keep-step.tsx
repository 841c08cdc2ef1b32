"use client";

import type { Planogram } from "@/core/planogram/planogram";
import { Field, Select, TextInput } from "@/ui/field";

/** Items that may move by themselves until somebody says otherwise. */
const USUAL_MOST = 50;

/** Whether the plan is laid over the catalogue anew after every reading and move of shelves, and how much goes by itself. */
export function KeepStep({ draft, onChange }: { draft: Planogram; onChange: (change: Partial<Planogram>) => void }) {
  const { keepStep } = draft;
  return (
    <div className="mt-3 grid grid-cols-2 gap-3">
      <Field label="In step" hint="With feed and shelves, once it is applied.">
        {(props) => (
          <Select
            {...props}
            value={keepStep?.how ?? ""}
            onChange={(event) => {
              const how = event.target.value as "" | "propose" | "apply";
              onChange({ keepStep: how === "" ? undefined : { how, most: keepStep?.most ?? USUAL_MOST } });
            }}
          >
            <option value="">Only when I replan</option>
            <option value="propose">Propose what changes</option>
            <option value="apply">Into the basket</option>
          </Select>
        )}
      </Field>
      {keepStep?.how === "apply" && (
        <Field label="Items at most" hint="More is proposed.">
          {(props) => (
            <TextInput
              {...props}
              inputMode="numeric"
              value={String(keepStep.most)}
              onChange={(event) => {
                const most = Number(event.target.value);
                if (Number.isInteger(most) && most >= 0) onChange({ keepStep: { ...keepStep, most } });
              }}
            />
          )}
        </Field>
      )}
    </div>
  );
}

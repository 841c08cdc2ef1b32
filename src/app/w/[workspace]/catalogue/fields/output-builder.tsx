"use client";

import { Plus, X } from "lucide-react";
import type { Output, Part } from "@/core/catalogue/derive/derived-field";
import { STEP_LABEL, type Step } from "@/core/catalogue/derive/steps";
import { Button } from "@/ui/button";
import { Select, TextInput } from "@/ui/field";
import { FieldSelect, type FieldChoice } from "../where-builder";
import { StepInputs } from "./step-inputs";

const FRESH: Record<Step["do"], Step> = {
  "take-characters": { do: "take-characters", from: 1, count: 3 },
  "take-words": { do: "take-words", from: 1, count: 1 },
  "take-between": { do: "take-between", after: "(", before: ")" },
  "take-number": { do: "take-number", units: "cm, m, mm" },
  "take-listed": { do: "take-listed", words: "" },
  "take-pattern": { do: "take-pattern", pattern: "[0-9]+" },
  "take-level": { do: "take-level", level: 1 },
  replace: { do: "replace", find: "x", with: "", whole: true },
  "remove-words": { do: "remove-words", words: "" },
  case: { do: "case", to: "title" },
  arithmetic: { do: "arithmetic", op: "multiply", by: 1, field: "" },
  round: { do: "round", to: 1 },
  price: { do: "price", digits: 2, currency: "EUR" },
  "look-up": { do: "look-up", list: "", column: 1, missing: "empty" },
  "plain-text": { do: "plain-text" },
  shorten: { do: "shorten", most: 30 },
  default: { do: "default", text: "" },
};

/** Edits what a rule gives: texts and fields put together, then changed step by step. */
export function OutputBuilder({
  label,
  output,
  fields,
  lists,
  onChange,
}: {
  label: string;
  output: Output;
  fields: FieldChoice[];
  lists: { key: string; name: string }[];
  onChange: (output: Output) => void;
}) {
  const { parts, steps } = output;
  const setPart = (at: number, part: Part | null) =>
    onChange({ ...output, parts: parts.flatMap((old, i) => (i !== at ? [old] : part === null ? [] : [part])) });
  const setStep = (at: number, step: Step | null) =>
    onChange({ ...output, steps: steps.flatMap((old, i) => (i !== at ? [old] : step === null ? [] : [step])) });
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <div className="flex flex-wrap items-center gap-1.5">
        {parts.map((part, at) => (
          <span
            key={at}
            className="inline-flex items-center gap-1 rounded-md border border-petrol/40 bg-petrol-wash py-0.5 pr-1 pl-1"
          >
            {"text" in part ? (
              <TextInput
                aria-label={`Text ${at + 1}`}
                placeholder="text"
                className="w-32!"
                value={part.text}
                onChange={(event) => setPart(at, { text: event.target.value })}
              />
            ) : (
              <FieldSelect
                label={`Field ${at + 1} of the value`}
                className="w-44!"
                fields={fields}
                value={part.field}
                onChange={(field) => setPart(at, { field })}
              />
            )}
            <button
              type="button"
              aria-label={`Remove part ${at + 1}`}
              className="rounded p-0.5 hover:bg-surface"
              onClick={() => setPart(at, null)}
            >
              <X aria-hidden className="size-3.5" />
            </button>
          </span>
        ))}
        <Button look="quiet" onClick={() => onChange({ ...output, parts: [...parts, { text: "" }] })}>
          <Plus aria-hidden className="size-3.5" /> Text
        </Button>
        <Button look="quiet" onClick={() => onChange({ ...output, parts: [...parts, { field: "title" }] })}>
          <Plus aria-hidden className="size-3.5" /> Field
        </Button>
        {parts.length > 1 && (
          <label className="flex items-center gap-1 text-xs text-soft">
            between them
            <TextInput
              className="w-14!"
              value={output.by}
              onChange={(event) => onChange({ ...output, by: event.target.value })}
            />
          </label>
        )}
        {parts.length === 0 && <span className="text-sm text-soft">left empty on purpose</span>}
      </div>
      {parts.length > 0 && (
        <ul className="mt-1.5 space-y-1.5">
          {steps.map((step, at) => (
            <li key={at} className="flex flex-wrap items-center gap-1.5 text-sm">
              <span className="text-soft">then</span>
              <Select
                aria-label={`Step ${at + 1}`}
                className="w-64!"
                value={step.do}
                onChange={(event) => setStep(at, FRESH[event.target.value as Step["do"]])}
              >
                {Object.entries(STEP_LABEL).map(([key, text]) => (
                  <option key={key} value={key}>
                    {text}
                  </option>
                ))}
              </Select>
              <StepInputs step={step} fields={fields} lists={lists} onChange={(next) => setStep(at, next)} />
              <button
                type="button"
                aria-label={`Remove step ${at + 1}`}
                className="rounded p-0.5 text-soft hover:bg-raised"
                onClick={() => setStep(at, null)}
              >
                <X aria-hidden className="size-3.5" />
              </button>
            </li>
          ))}
          <li>
            <Button look="quiet" onClick={() => onChange({ ...output, steps: [...steps, FRESH["take-number"]] })}>
              <Plus aria-hidden className="size-3.5" /> Change it: take a part, replace, look up, calculate …
            </Button>
          </li>
        </ul>
      )}
    </fieldset>
  );
}

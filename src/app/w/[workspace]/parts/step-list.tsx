import { Plus, X } from "lucide-react";
import { FRESH_STEP, STEP_LABEL, type Step } from "@/core/parts/steps";
import { Button } from "@/ui/button";
import { Select } from "@/ui/field";
import type { FieldChoice } from "../catalogue/where-builder";
import { StepInputs } from "./step-inputs";

export const ALL_STEPS = Object.keys(STEP_LABEL) as Step["do"][];

/** What is done to a value, step by step. */
export function StepList({
  steps,
  offered = ALL_STEPS,
  first = "take-number",
  fields = [],
  lists = [],
  onChange,
}: {
  steps: readonly Step[];
  offered?: readonly Step["do"][];
  /** What a new step does until something else is chosen. */
  first?: Step["do"];
  /** What can be calculated with, and looked up in. */
  fields?: FieldChoice[];
  lists?: { key: string; name: string }[];
  onChange: (steps: Step[]) => void;
}) {
  return (
    <ul className="mt-1.5 space-y-1.5">
      {steps.map((step, at) => (
        <li key={at} className="flex flex-wrap items-center gap-1.5 text-sm">
          <span className="text-soft">then</span>
          <Select
            aria-label={`Step ${at + 1}`}
            className="w-64!"
            value={step.do}
            onChange={(event) => onChange(steps.with(at, FRESH_STEP[event.target.value as Step["do"]]))}
          >
            {offered.map((key) => (
              <option key={key} value={key}>
                {STEP_LABEL[key]}
              </option>
            ))}
          </Select>
          <StepInputs step={step} fields={fields} lists={lists} onChange={(next) => onChange(steps.with(at, next))} />
          <button
            type="button"
            aria-label={`Remove step ${at + 1}`}
            className="rounded p-0.5 text-soft hover:bg-raised"
            onClick={() => onChange(steps.toSpliced(at, 1))}
          >
            <X aria-hidden className="size-3.5" />
          </button>
        </li>
      ))}
      <li>
        <Button look="quiet" onClick={() => onChange([...steps, FRESH_STEP[first]])}>
          <Plus aria-hidden className="size-3.5" /> Change it: shorten, take a part, replace, calculate …
        </Button>
      </li>
    </ul>
  );
}

"use client";

import type { Output } from "@/core/catalogue/derive/derived-field";
import { TextInput } from "@/ui/field";
import { PartsEditor } from "../../parts/parts-editor";
import { ALL_STEPS, StepList } from "../../parts/step-list";
import { asChoices, type FieldChoice } from "../where-builder";

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
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <PartsEditor
        label={label}
        value={parts}
        choices={asChoices(fields)}
        most={20}
        steps={ALL_STEPS}
        withRow={{ fields, lists }}
        onChange={(next) => onChange({ ...output, parts: next })}
      >
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
      </PartsEditor>
      {parts.length > 0 && (
        <StepList
          steps={steps}
          fields={fields}
          lists={lists}
          onChange={(next) => onChange({ ...output, steps: next })}
        />
      )}
    </fieldset>
  );
}

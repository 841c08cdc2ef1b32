"use client";

import { patternFault, type Step } from "@/core/parts/steps";
import { Checkbox, Select, TextInput } from "@/ui/field";
import { FieldSelect, type FieldChoice } from "../catalogue/where-builder";

function NumberInput({
  label,
  value,
  onChange,
  className = "w-20!",
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
  className?: string;
}) {
  return (
    <TextInput
      aria-label={label}
      className={className}
      inputMode="decimal"
      defaultValue={String(value)}
      onChange={(event) => {
        const number = Number(event.target.value.replace(",", "."));
        if (event.target.value.trim() !== "" && Number.isFinite(number)) onChange(number);
      }}
    />
  );
}

function WordsInput({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return (
    <textarea
      aria-label={label}
      rows={Math.min(5, Math.max(1, value.split("\n").length))}
      placeholder="words, one a line or with commas"
      className="min-h-8 w-72 rounded-md border border-line bg-surface px-2 py-1.5 text-sm placeholder:text-soft"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

/** What a step needs to know, to be filled in. */
export function StepInputs({
  step,
  fields,
  lists,
  onChange,
}: {
  step: Step;
  fields: FieldChoice[];
  lists: { key: string; name: string }[];
  onChange: (step: Step) => void;
}) {
  switch (step.do) {
    case "take-characters":
    case "take-words":
      return (
        <>
          <span>from number</span>
          <NumberInput
            label="From"
            value={step.from}
            onChange={(from) => onChange({ ...step, from: Math.round(from) })}
          />
          <span>as many as</span>
          <NumberInput
            label="How many"
            value={step.count}
            onChange={(count) => onChange({ ...step, count: Math.max(0, Math.round(count)) })}
          />
          <span className="text-xs text-soft">minus counts from the end; 0 takes the rest</span>
        </>
      );
    case "take-between":
      return (
        <>
          <span>after</span>
          <TextInput
            aria-label="After"
            className="w-24!"
            value={step.after}
            onChange={(event) => onChange({ ...step, after: event.target.value })}
          />
          <span>and before</span>
          <TextInput
            aria-label="Before"
            className="w-24!"
            value={step.before}
            onChange={(event) => onChange({ ...step, before: event.target.value })}
          />
        </>
      );
    case "take-number":
      return (
        <>
          <span>with one of the units</span>
          <TextInput
            aria-label="Units"
            className="w-48!"
            placeholder="any number"
            value={step.units}
            onChange={(event) => onChange({ ...step, units: event.target.value })}
          />
        </>
      );
    case "take-listed":
    case "remove-words":
      return <WordsInput label="Words" value={step.words} onChange={(words) => onChange({ ...step, words })} />;
    case "take-pattern": {
      const fault = patternFault(step.pattern);
      return (
        <>
          <TextInput
            aria-label="Pattern"
            aria-invalid={fault !== null}
            className="w-56! font-mono"
            value={step.pattern}
            onChange={(event) => onChange({ ...step, pattern: event.target.value })}
          />
          <span className={fault ? "text-xs font-semibold text-ember" : "text-xs text-soft"}>
            {fault ?? "a regular expression; brackets say which part"}
          </span>
        </>
      );
    }
    case "take-level":
      return (
        <>
          <span>level</span>
          <NumberInput
            label="Level"
            value={step.level}
            onChange={(level) => onChange({ ...step, level: Math.min(12, Math.max(1, Math.round(level))) })}
          />
        </>
      );
    case "replace":
      return (
        <>
          <TextInput
            aria-label="What to replace"
            className="w-32!"
            value={step.find}
            onChange={(event) => onChange({ ...step, find: event.target.value })}
          />
          <span>by</span>
          <TextInput
            aria-label="What to put there"
            placeholder="nothing"
            className="w-32!"
            value={step.with}
            onChange={(event) => onChange({ ...step, with: event.target.value })}
          />
          <Checkbox
            label="whole words only"
            checked={step.whole}
            onChange={(event) => onChange({ ...step, whole: event.target.checked })}
          />
        </>
      );
    case "case":
      return (
        <Select
          aria-label="Case"
          className="w-52!"
          value={step.to}
          onChange={(event) => onChange({ ...step, to: event.target.value as typeof step.to })}
        >
          <option value="lower">all small</option>
          <option value="upper">ALL CAPITALS</option>
          <option value="title">Each Word Capital</option>
          <option value="sentence">First letter capital</option>
        </Select>
      );
    case "arithmetic":
      return (
        <>
          <Select
            aria-label="Operation"
            className="w-32!"
            value={step.op}
            onChange={(event) => onChange({ ...step, op: event.target.value as typeof step.op })}
          >
            <option value="add">plus</option>
            <option value="subtract">minus</option>
            <option value="multiply">times</option>
            <option value="divide">divided by</option>
          </Select>
          {/* A line knows no other field of the item. */}
          {fields.length > 0 && (
            <Select
              aria-label="By a number or a field"
              className="w-32!"
              value={step.field === "" ? "number" : "field"}
              onChange={(event) => onChange({ ...step, field: event.target.value === "field" ? "price" : "" })}
            >
              <option value="number">the number</option>
              <option value="field">the field</option>
            </Select>
          )}
          {step.field === "" ? (
            <NumberInput label="Number" value={step.by} onChange={(by) => onChange({ ...step, by })} />
          ) : (
            <FieldSelect
              label="Field to calculate with"
              className="w-44!"
              fields={fields}
              value={step.field}
              onChange={(field) => onChange({ ...step, field })}
            />
          )}
        </>
      );
    case "round":
      return (
        <>
          <span>to</span>
          <NumberInput label="Round to" value={step.to} onChange={(to) => to > 0 && onChange({ ...step, to })} />
        </>
      );
    case "price":
      return (
        <>
          <Select
            aria-label="Decimals"
            className="w-36!"
            value={step.digits}
            onChange={(event) => onChange({ ...step, digits: event.target.value === "0" ? 0 : 2 })}
          >
            <option value="2">two decimals</option>
            <option value="0">no decimals</option>
          </Select>
          <TextInput
            aria-label="Currency sign"
            className="w-20!"
            value={step.currency}
            onChange={(event) => onChange({ ...step, currency: event.target.value })}
          />
        </>
      );
    case "look-up":
      return (
        <>
          <Select
            aria-label="List"
            className="w-48!"
            value={step.list}
            onChange={(event) => onChange({ ...step, list: event.target.value })}
          >
            <option value="">Choose a list</option>
            {lists.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </Select>
          <Select
            aria-label="Which word of the list"
            className="w-40!"
            value={step.column}
            onChange={(event) => onChange({ ...step, column: event.target.value === "2" ? 2 : 1 })}
          >
            <option value="1">its first word</option>
            <option value="2">its second word</option>
          </Select>
          <Select
            aria-label="What is not in the list"
            className="w-44!"
            value={step.missing}
            onChange={(event) => onChange({ ...step, missing: event.target.value as typeof step.missing })}
          >
            <option value="empty">else leave empty</option>
            <option value="keep">else keep as it is</option>
          </Select>
        </>
      );
    case "plain-text":
      return null;
    case "shorten":
      return (
        <>
          <span>to at most</span>
          <NumberInput
            label="Most characters"
            value={step.most}
            onChange={(most) => onChange({ ...step, most: Math.max(1, Math.round(most)) })}
          />
          <span>characters</span>
        </>
      );
    case "around":
      return (
        <>
          <TextInput
            aria-label="Before it"
            placeholder="before"
            className="w-24!"
            value={step.before}
            onChange={(event) => onChange({ ...step, before: event.target.value })}
          />
          <TextInput
            aria-label="Behind it"
            placeholder="behind"
            className="w-24!"
            value={step.behind}
            onChange={(event) => onChange({ ...step, behind: event.target.value })}
          />
          <span className="text-xs text-soft">where there is a value</span>
        </>
      );
    case "default":
      return (
        <TextInput
          aria-label="Text when empty"
          className="w-44!"
          value={step.text}
          onChange={(event) => onChange({ ...step, text: event.target.value })}
        />
      );
    case "within":
      return (
        <>
          <BoundInput label="Least" value={step.from} onChange={(from) => onChange({ ...step, from })} />
          <span>and</span>
          <BoundInput label="Most" value={step.to} onChange={(to) => onChange({ ...step, to })} />
        </>
      );
  }
}

/** A bound; empty is none. */
function BoundInput({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
}) {
  return (
    <TextInput
      aria-label={label}
      className="w-20!"
      inputMode="decimal"
      placeholder="any"
      defaultValue={value ?? ""}
      onChange={(event) => {
        const text = event.target.value.trim().replace(",", ".");
        if (text === "") onChange(null);
        else if (Number.isFinite(Number(text))) onChange(Number(text));
      }}
    />
  );
}

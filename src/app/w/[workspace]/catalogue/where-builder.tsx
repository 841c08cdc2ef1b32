"use client";

import { Plus, X } from "lucide-react";
import {
  CONDITION_OPS,
  isGroup,
  isValueless,
  isWordOp,
  OP_LABEL,
  type Condition,
  type ConditionOp,
  type Where,
} from "@/core/catalogue/where";
import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import { millsToField, parseMoney } from "@/core/kit/money";
import { STANDING_LABEL } from "@/core/account/standing";
import { HEATS } from "@/core/evidence/heat";
import type { FieldInfo } from "@/server/catalogue/field-list";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { SearchSelect, type Choice } from "@/ui/search-select";
import { Select, TextInput } from "@/ui/field";

/** A field that a condition can name. */
export interface FieldChoice {
  name: string;
  label: string;
  kind: "text" | "number" | "money" | "share" | "choice";
  group: string;
  /** The values there are, for a choice. */
  options?: readonly string[];
  /** What the values are called where that is not the values themselves; same places. */
  optionLabels?: readonly string[];
}

const GROUP_LABEL: Record<FieldInfo["group"], string> = {
  feed: "Fields",
  derived: "Derived fields",
  made: "Worked out",
  extra: "Other columns of the feed",
};

/** Fields as choices; with `withResults` also metrics, heat and notes, which rules can't use. */
export function fieldChoices(fields: FieldInfo[], withResults: boolean): FieldChoice[] {
  const choices = fields.map(({ name, label, kind, group }): FieldChoice => ({
    ...{ name, label, kind, group: GROUP_LABEL[group] },
  }));
  if (!withResults) return choices;
  return [
    ...choices,
    ...METRIC_KEYS.map((key): FieldChoice => {
      const { label, kind } = METRICS[key];
      const kindOf = kind === "money" ? "money" : kind === "percent" ? "share" : "number";
      return { name: key, label, kind: kindOf, group: "Results" };
    }),
    { name: "heat", label: "Heat", kind: "choice", group: "Results", options: HEATS },
    { name: "home", label: "Home", kind: "choice", group: "Results", options: Object.values(STANDING_LABEL) },
    { name: "note", label: "Note", kind: "text", group: "Results" },
  ];
}

/** A condition's value as a person reads it: money in units, shares in percent. */
export function shownValue(kind: FieldChoice["kind"] | undefined, value: string): string {
  if (value === "") return "";
  if (kind === "money") return millsToField(Number(value));
  if (kind === "share") return String(Number((Number(value) * 100).toFixed(4)));
  return value;
}

/** What a person typed as a condition's value, or null when it can't be one. */
export function readValue(kind: FieldChoice["kind"] | undefined, text: string): string | null {
  if (kind === "money") {
    const amount = parseMoney(text);
    return amount.ok ? String(amount.mills) : null;
  }
  const number = Number(text.replace(",", ".").replace("%", ""));
  if (kind === "share") return text.trim() !== "" && Number.isFinite(number) ? String(number / 100) : null;
  if (kind === "number") return text.trim() !== "" && Number.isFinite(number) ? String(number) : null;
  return text;
}

const TEXT_OPS: ConditionOp[] = CONDITION_OPS.filter((op) => op !== "at-least" && op !== "at-most");
const NUMBER_OPS: ConditionOp[] = ["at-least", "at-most", "is", "is-not", "empty", "filled"];
const CHOICE_OPS: ConditionOp[] = ["is", "is-not", "one-of"];

/** Fields as choices that are searched by typing. */
export function asChoices(fields: FieldChoice[]): Choice[] {
  return fields.map(({ name, label, group }) => ({ value: name, label, group }));
}

/** The conditions that make sense for a kind of field. */
export function opsFor(kind: FieldChoice["kind"] | undefined): ConditionOp[] {
  return kind === "choice" ? CHOICE_OPS : kind === undefined || kind === "text" ? TEXT_OPS : NUMBER_OPS;
}

export function FieldSelect({
  fields,
  value,
  onChange,
  label,
  className,
}: {
  fields: FieldChoice[];
  value: string;
  onChange: (name: string) => void;
  label: string;
  className?: string;
}) {
  const known = asChoices(fields);
  const isKnown = value === "" || fields.some(({ name }) => name === value);
  const choices = isKnown ? known : [{ value, label: "A field that is not there any more" }, ...known];
  return (
    <SearchSelect
      label={label}
      className={className}
      placeholder="Choose a field"
      value={value}
      choices={choices}
      onChange={onChange}
    />
  );
}

function ValueInput({
  condition,
  kind,
  options,
  labels = options,
  onChange,
}: {
  condition: Condition;
  kind: FieldChoice["kind"] | undefined;
  options: readonly string[];
  labels?: readonly string[] | undefined;
  onChange: (value: string) => void;
}) {
  const { op, value } = condition;
  if (isValueless(op)) return <span className="flex-1" />;
  if (kind === "choice" && op !== "one-of") {
    return (
      <Select
        aria-label="Value"
        className="min-w-40 flex-1"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        {options.map((option, at) => (
          <option key={option} value={option}>
            {labels[at]}
          </option>
        ))}
      </Select>
    );
  }
  if (isWordOp(op) || op === "one-of") {
    return (
      <textarea
        aria-label="Values, one a line"
        rows={Math.min(4, Math.max(1, value.split("\n").length))}
        placeholder={isWordOp(op) ? "words, one a line or with commas" : "values, one a line or with commas"}
        className="min-h-8 min-w-40 flex-1 rounded-md border border-line bg-surface px-2 py-1.5 text-sm placeholder:text-soft"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    );
  }
  const isNumber = kind === "money" || kind === "share" || kind === "number";
  return (
    <TextInput
      // Money and shares are typed as people write them, and kept in their own unit once they are left.
      key={isNumber ? `${kind}/${op}` : "text"}
      aria-label="Value"
      className="min-w-40 flex-1"
      defaultValue={isNumber ? shownValue(kind, value) : undefined}
      value={isNumber ? undefined : value}
      onChange={(event) => {
        const read = readValue(kind, event.target.value);
        if (read !== null) onChange(read);
      }}
    />
  );
}

/** Edits conditions that stack: all or any of them, with groups inside. */
export function WhereBuilder({
  where,
  fields,
  onChange,
  depth = 0,
}: {
  where: Where;
  fields: FieldChoice[];
  onChange: (where: Where) => void;
  depth?: number;
}) {
  const optionsOf = (name: string) => fields.find((field) => field.name === name)?.options ?? [];
  const kindOf = (name: string) => fields.find((field) => field.name === name)?.kind;
  const labelsOf = (name: string) => fields.find((field) => field.name === name)?.optionLabels;
  const replace = (at: number, part: Condition | Where | null) =>
    onChange({ ...where, of: where.of.flatMap((old, i) => (i !== at ? [old] : part === null ? [] : [part])) });
  const first = fields.find(({ name }) => name === "title") ?? fields[0];
  const fresh = (): Condition => ({ field: first?.name ?? "title", op: "has-word", value: "" });
  return (
    <div className={cx("@container", depth > 0 && "rounded-md border border-line bg-paper/60 p-2")}>
      {where.of.length > 1 && (
        <div className="mb-1.5 flex items-center gap-2 text-sm">
          <Select
            aria-label="How the conditions hold together"
            className="w-40!"
            value={where.match}
            onChange={(event) => onChange({ ...where, match: event.target.value as Where["match"] })}
          >
            <option value="all">all of these</option>
            <option value="any">any of these</option>
          </Select>
          <span className="text-soft">
            {where.match === "all" ? "every condition must hold" : "one that holds is enough"}
          </span>
        </div>
      )}
      <ul className="space-y-1.5">
        {where.of.map((part, at) => (
          <li key={at} className="flex items-start gap-1.5">
            {isGroup(part) ? (
              <div className="flex-1">
                <WhereBuilder where={part} fields={fields} depth={depth + 1} onChange={(next) => replace(at, next)} />
              </div>
            ) : (
              // In a narrow place the value goes onto a line of its own, where there is room to read it.
              <div className="flex min-w-0 flex-1 flex-wrap items-start gap-1.5">
                <FieldSelect
                  label="Field"
                  className="w-36! @md:w-44!"
                  fields={fields}
                  value={part.field}
                  onChange={(field) => {
                    const isAlike = kindOf(field) === kindOf(part.field) && kindOf(field) !== "choice";
                    const fresh = { op: opsFor(kindOf(field))[0]!, value: optionsOf(field)[0] ?? "" };
                    replace(at, { field, ...(isAlike ? { op: part.op, value: part.value } : fresh) });
                  }}
                />
                <Select
                  aria-label="Condition"
                  className="w-36! @md:w-48!"
                  value={part.op}
                  onChange={(event) => replace(at, { ...part, op: event.target.value as ConditionOp })}
                >
                  {opsFor(kindOf(part.field)).map((op) => (
                    <option key={op} value={op}>
                      {OP_LABEL[op]}
                    </option>
                  ))}
                </Select>
                <ValueInput
                  condition={part}
                  kind={kindOf(part.field)}
                  options={optionsOf(part.field)}
                  labels={labelsOf(part.field)}
                  onChange={(value) => replace(at, { ...part, value })}
                />
              </div>
            )}
            <button
              type="button"
              aria-label={isGroup(part) ? "Remove the group" : "Remove the condition"}
              className="mt-1.5 rounded p-0.5 text-soft hover:bg-raised"
              onClick={() => replace(at, null)}
            >
              <X aria-hidden className="size-4" />
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-1.5 flex gap-1">
        <Button look="quiet" onClick={() => onChange({ ...where, of: [...where.of, fresh()] })}>
          <Plus aria-hidden className="size-3.5" /> Condition
        </Button>
        {depth < 2 && where.of.length > 0 && (
          <Button
            look="quiet"
            onClick={() =>
              onChange({
                ...where,
                of: [...where.of, { match: where.match === "all" ? "any" : "all", of: [fresh(), fresh()] }],
              })
            }
          >
            <Plus aria-hidden className="size-3.5" /> Group
          </Button>
        )}
      </div>
    </div>
  );
}

/** A condition in words, for a chip. */
export function conditionWords({ field, op, value }: Condition, fields: FieldChoice[]): string {
  const known = fields.find(({ name }) => name === field);
  const label = known?.label ?? METRICS[field as MetricKey]?.label ?? field;
  const named = known?.optionLabels?.[known.options?.indexOf(value) ?? -1] ?? shownValue(known?.kind, value);
  const text = named.split("\n").filter(Boolean).join(", ");
  const short = text.length > 40 ? `${text.slice(0, 39)}…` : text;
  return `${label} ${OP_LABEL[op]}${isValueless(op) ? "" : ` ${short}${known?.kind === "share" ? " %" : ""}`}`;
}

/** A group in words. */
export function whereWords(where: Where, fields: FieldChoice[]): string {
  return where.of
    .map((part) => (isGroup(part) ? `(${whereWords(part, fields)})` : conditionWords(part, fields)))
    .join(where.match === "all" ? " and " : " or ");
}

"use client";

import type { ReactNode } from "react";
import type { Change } from "@/core/experiments/changes";
import { type SLOT_KEYS, SLOT_LABEL } from "@/core/kit/slots";
import { ChoiceSelect, Field, TextInput } from "@/ui/field";
import { FlexFields } from "../flex-fields";

/** A change as a form has it: what is typed stands, whether it can be read or not. */
export interface ChangeText {
  percent: string;
  factor: string;
  slot: (typeof SLOT_KEYS)[number];
  towards: "goal" | "contribution";
  flex: { below: number; above: number } | null;
  what: "term" | "listing" | "placement";
  values: string;
}

const TOWARDS = { contribution: "contribution", goal: "the goal" } as const;
const WHATS = { term: "terms", listing: "listings", placement: "placements" } as const;

export function textOf(change: Change): ChangeText {
  const first = change.kind === "keep-out" ? change.values[0] : undefined;
  return {
    percent: "percent" in change ? String(change.percent) : "-20",
    factor: change.kind === "slot" ? String(change.factor) : "0.7",
    slot: change.kind === "slot" ? change.slot : "item-pages",
    towards: change.kind === "worth-bid" ? change.towards : "contribution",
    flex: change.kind === "flex" ? change.flex : { below: 0.3, above: 0.3 },
    what: first?.what ?? "placement",
    values: change.kind === "keep-out" ? change.values.map(({ value }) => value).join("\n") : "",
  };
}

const numberIn = (text: string) => (text.trim() === "" ? NaN : Number(text.replace(",", ".").replace("−", "-")));
export const linesIn = (text: string) =>
  [...new Set(text.split(/[\r\n\t]+/).map((line) => line.trim()))].filter(Boolean);

/** What the form says, to be checked by the schema. */
export function changeOf(kind: Change["kind"], text: ChangeText): unknown {
  switch (kind) {
    case "item-bid":
    case "budget":
      return { kind, percent: numberIn(text.percent) };
    case "worth-bid":
      return { kind, towards: text.towards };
    case "flex":
      return { kind, flex: text.flex };
    case "slot":
      return { kind, slot: text.slot, factor: numberIn(text.factor) };
    case "keep-out":
      return { kind, values: linesIn(text.values).map((value) => ({ what: text.what, match: "exact", value })) };
    case "exclude":
    case "pause":
      return { kind };
  }
}

/** What a change needs to be told. */
export function ChangeFields({
  kind,
  text,
  onChange,
  error,
}: {
  kind: Change["kind"];
  text: ChangeText;
  onChange: (text: ChangeText) => void;
  error: string | undefined;
}): ReactNode {
  const fault = error === undefined ? {} : { error };
  if (kind === "item-bid" || kind === "budget") {
    return (
      <Field label={kind === "budget" ? "Budget, % more or less" : "Bid, % more or less"} {...fault}>
        {(props) => (
          <TextInput
            {...props}
            inputMode="decimal"
            value={text.percent}
            onChange={(event) => onChange({ ...text, percent: event.target.value })}
          />
        )}
      </Field>
    );
  }
  if (kind === "worth-bid") {
    return (
      <Field label="Towards">
        {(props) => (
          <ChoiceSelect
            {...props}
            choices={TOWARDS}
            value={text.towards}
            onChange={(towards) => onChange({ ...text, towards })}
          />
        )}
      </Field>
    );
  }
  if (kind === "flex") {
    return (
      <FlexFields
        value={text.flex ?? undefined}
        otherwise={{ below: 0, above: 0 }}
        onChange={(flex) => onChange({ ...text, flex: flex ?? null })}
      />
    );
  }
  if (kind === "slot") {
    return (
      <div className="grid grid-cols-2 gap-3">
        <Field label="Slot">
          {(props) => (
            <ChoiceSelect
              {...props}
              choices={SLOT_LABEL}
              value={text.slot}
              onChange={(slot) => onChange({ ...text, slot })}
            />
          )}
        </Field>
        <Field label="Factor" {...fault}>
          {(props) => (
            <TextInput
              {...props}
              inputMode="decimal"
              value={text.factor}
              onChange={(event) => onChange({ ...text, factor: event.target.value })}
            />
          )}
        </Field>
      </div>
    );
  }
  if (kind !== "keep-out") return null;
  return (
    <div className="grid grid-cols-[10rem_1fr] gap-3">
      <Field label="They are">
        {(props) => (
          <ChoiceSelect {...props} choices={WHATS} value={text.what} onChange={(what) => onChange({ ...text, what })} />
        )}
      </Field>
      <Field label="Kept out of, one a line" {...fault}>
        {(props) => (
          <textarea
            {...props}
            rows={3}
            className="w-full rounded-md border border-line bg-surface px-2 py-1 text-sm"
            value={text.values}
            onChange={(event) => onChange({ ...text, values: event.target.value })}
          />
        )}
      </Field>
    </div>
  );
}

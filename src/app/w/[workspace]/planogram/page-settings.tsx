"use client";

import { useState } from "react";
import type { Planogram } from "@/core/planogram/planogram";
import { Field, Select, TextInput } from "@/ui/field";

type Pages = NonNullable<Planogram["pages"]>;

/** Rivals' pages of the same categories, whatever they cost. */
export const START_PAGES: Pages = { aim: "categories", dearerFrom: null, ratingTo: null };

/** Whose pages a listing campaign aims at, and which of them. */
export function PageSettings({ value, onChange }: { value: Pages; onChange: (value: Pages) => void }) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <div className="col-span-2">
        <Field label="Pages" hint={value.aim === "own" ? "Your own items, so that no rival stands there." : undefined}>
          {(props) => (
            <Select
              {...props}
              value={value.aim}
              onChange={(event) => onChange({ ...value, aim: event.target.value as Pages["aim"] })}
            >
              <option value="categories">listings of the items&apos; categories</option>
              <option value="own">the items&apos; own pages</option>
            </Select>
          )}
        </Field>
      </div>
      {value.aim === "categories" && (
        <>
          <OptionalNumber
            label="Dearer from"
            hint="Times what ours cost in the middle."
            value={value.dearerFrom}
            within={[0.01, 100]}
            onChange={(dearerFrom) => onChange({ ...value, dearerFrom })}
          />
          <OptionalNumber
            label="Rated at most"
            hint="Stars, 1 to 5."
            value={value.ratingTo}
            within={[1, 5]}
            onChange={(ratingTo) => onChange({ ...value, ratingTo })}
          />
        </>
      )}
    </div>
  );
}

/** A number that may be left out; what is none, or lies outside, is said and changes nothing. */
function OptionalNumber({
  label,
  hint,
  value,
  within: [least, most],
  onChange,
}: {
  label: string;
  hint: string;
  value: number | null;
  within: [least: number, most: number];
  onChange: (value: number | null) => void;
}) {
  const [text, setText] = useState(value === null ? "" : String(value));
  const read = (typed: string) => (typed.trim() === "" ? null : Number(typed.replace(",", ".")));
  const isFit = (number: number | null) => number === null || (number >= least && number <= most);
  return (
    <Field label={label} hint={hint} {...(isFit(read(text)) ? {} : { error: `A number from ${least} to ${most}.` })}>
      {(props) => (
        <TextInput
          {...props}
          inputMode="decimal"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            const number = read(event.target.value);
            if (isFit(number)) onChange(number);
          }}
        />
      )}
    </Field>
  );
}

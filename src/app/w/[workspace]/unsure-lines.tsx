"use client";

import { plural } from "@/core/kit/format";
import { ChoiceSelect, Field } from "@/ui/field";

/** What is done with lines that nothing tells: left out until somebody says what they are. */
const UNSURE = { out: "leave them out", term: "search terms", listing: "pages of listings" } as const;
export type Unsure = keyof typeof UNSURE;

/** Asks what lines are that could be search terms as well as pages of listings; nothing where there are none. */
export function UnsureLines({
  lines,
  value,
  onChange,
}: {
  lines: readonly string[];
  value: Unsure;
  onChange: (value: Unsure) => void;
}) {
  if (lines.length === 0) return null;
  return (
    <Field
      label={`${plural(lines.length, "line")} could be either`}
      hint={`${lines.slice(0, 3).join(", ")}${lines.length > 3 ? " …" : ""}: words that are searched for, or the code of a listing.`}
    >
      {(props) => <ChoiceSelect {...props} value={value} onChange={onChange} choices={UNSURE} />}
    </Field>
  );
}

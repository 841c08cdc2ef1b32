"use client";

import { useState } from "react";
import { millsToField, parseMoney } from "@/core/kit/money";
import { Field, TextInput } from "@/ui/field";

/** An amount of money: typed as a decimal, given on in mills when it can be read. */
export function MoneyInput({
  label,
  hint,
  value,
  onChange,
}: {
  label: string;
  hint?: string;
  value: number;
  onChange: (mills: number) => void;
}) {
  const [typed, setTyped] = useState({ text: millsToField(value), of: value });
  // What is typed stays as it was typed while it means the amount; an amount from elsewhere shows.
  const text = typed.of === value ? typed.text : millsToField(value);
  const parsed = parseMoney(text);
  return (
    <Field label={label} hint={hint} error={parsed.ok ? undefined : "An amount such as 12.50."}>
      {(props) => (
        <TextInput
          {...props}
          inputMode="decimal"
          value={text}
          onChange={(event) => {
            const next = parseMoney(event.target.value);
            setTyped({ text: event.target.value, of: next.ok ? next.mills : value });
            if (next.ok) onChange(next.mills);
          }}
        />
      )}
    </Field>
  );
}

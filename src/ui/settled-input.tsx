"use client";

import { useState, type ComponentProps } from "react";
import { TextInput } from "./field";

/**
 * A field whose text counts once it is left or Enter is pressed. What is being typed stands, whatever comes from
 * outside meanwhile (a preview that answers late, an undo); Escape puts back what was there.
 */
export function SettledInput({
  value,
  onSettle,
  ...rest
}: {
  value: string;
  /** Called with what was typed, if that differs; false says that it was not taken or comes to the same, and the old text comes back. */
  onSettle: (text: string) => boolean | void;
} & Omit<ComponentProps<"input">, "value" | "defaultValue" | "onChange" | "onBlur" | "onFocus" | "onKeyDown">) {
  // What was settled stands till an answer changes the value: it may take a while to come back from the server.
  const [typed, setTyped] = useState<{ text: string; settledOver: string | null } | null>(null);
  const isStale = typed !== null && typed.settledOver !== null && typed.settledOver !== value;
  return (
    <TextInput
      {...rest}
      value={typed === null || isStale ? value : typed.text}
      onFocus={() => setTyped(null)}
      onChange={(event) => setTyped({ text: event.target.value, settledOver: null })}
      onBlur={(event) => {
        if (typed === null || typed.settledOver !== null) return;
        const text = event.target.value.trim();
        const isTaken = text !== value && onSettle(text) !== false;
        setTyped(isTaken ? { text, settledOver: value } : null);
      }}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        else if (event.key === "Escape") setTyped(null);
      }}
    />
  );
}

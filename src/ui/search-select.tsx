"use client";

import { Combobox, ComboboxButton, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { Check, ChevronDown } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { cx } from "./cx";

export interface Choice {
  value: string;
  label: string;
  /** Choices of one group stand together under its name. */
  group?: string;
  disabled?: boolean;
}

/** Choices shown at once; more are found by typing. */
const MOST_SHOWN = 200;

/** A choice out of many that is searched by typing. */
export function SearchSelect({
  label,
  value,
  choices,
  onChange,
  placeholder,
  disabled,
  className,
}: {
  label: string;
  value: string;
  choices: readonly Choice[];
  onChange: (value: string) => void;
  placeholder?: string;
  disabled?: boolean;
  className?: string;
}) {
  const [query, setQuery] = useState("");
  const words = query.toLowerCase().split(/\s+/).filter(Boolean);
  const found = choices
    .filter(({ label: text, group }) => words.every((word) => `${text} ${group ?? ""}`.toLowerCase().includes(word)))
    .slice(0, MOST_SHOWN);
  const chosen = choices.find((choice) => choice.value === value);
  const shown = chosen?.label ?? value;
  const input = useRef<HTMLInputElement>(null);
  // A label that arrives while somebody stands in the box, but has not typed yet, is marked again: else what they type
  // would be put behind it.
  useEffect(() => {
    const box = input.current;
    if (box && box === document.activeElement && box.value === shown) box.select();
  }, [shown]);
  return (
    <Combobox
      immediate
      value={value}
      disabled={disabled}
      onChange={(next: string | null) => {
        if (next !== null && next !== value) onChange(next);
      }}
      onClose={() => setQuery("")}
    >
      <div className={cx("relative", className ?? "w-full")}>
        <ComboboxInput
          ref={input}
          aria-label={label}
          autoComplete="off"
          placeholder={placeholder}
          title={chosen?.label}
          displayValue={() => shown}
          className="h-8 w-full truncate rounded-md border border-line bg-surface pl-2 pr-7 text-sm text-ink placeholder:text-soft disabled:opacity-60"
          onChange={(event) => setQuery(event.target.value)}
          onFocus={(event) => event.target.select()}
        />
        <ComboboxButton aria-label={`Choices for ${label}`} className="absolute inset-y-0 right-0 px-2 text-soft">
          <ChevronDown aria-hidden className="size-3.5" />
        </ComboboxButton>
      </div>
      <ComboboxOptions
        anchor={{ to: "bottom start", gap: 4 }}
        className="z-50 max-h-72! min-w-(--input-width) max-w-96 overflow-y-auto rounded-md border border-line bg-surface p-1 text-sm shadow-lg"
      >
        {found.length === 0 && <p className="px-2 py-1 text-soft">Nothing is called “{query}”.</p>}
        {found.map((choice, at) => (
          <div key={choice.value}>
            {choice.group && choice.group !== found[at - 1]?.group && (
              <p className="px-2 pb-0.5 pt-1.5 text-xs text-soft">{choice.group}</p>
            )}
            <ComboboxOption
              value={choice.value}
              disabled={choice.disabled ?? false}
              className="flex cursor-pointer items-center gap-2 rounded px-2 py-1 data-disabled:cursor-not-allowed data-disabled:text-soft data-focus:bg-petrol-wash"
            >
              <Check
                aria-hidden
                className={cx("size-3.5 shrink-0 text-petrol", choice.value !== value && "invisible")}
              />
              <span className="truncate">{choice.label}</span>
            </ComboboxOption>
          </div>
        ))}
      </ComboboxOptions>
    </Combobox>
  );
}

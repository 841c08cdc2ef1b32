"use client";

import { useState, type ReactNode } from "react";
import { formatMoney, millsToField, parseMoney } from "@/core/kit/money";
import { useWorkspace } from "../../_lib/workspace";

/** An amount edited in place: Enter saves, Escape leaves. Money in mills. */
export function MoneyCell({
  label,
  value,
  empty = "none",
  beside,
  onSave,
}: {
  label: string;
  value: number | null;
  empty?: string;
  /** What stands below the field while it is edited. */
  beside?: ReactNode;
  onSave: (mills: number) => Promise<boolean>;
}) {
  const { currency } = useWorkspace();
  const [text, setText] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  if (text === null) {
    return (
      <button
        type="button"
        aria-label={`${label}: ${value === null ? empty : formatMoney(value, currency)}. Change`}
        className="rounded border border-transparent border-b-line px-1 num hover:border-line hover:bg-raised"
        onClick={() => setText(value === null ? "" : millsToField(value))}
      >
        {value === null ? <span className="text-soft">{empty}</span> : formatMoney(value, currency)}
      </button>
    );
  }
  const parsed = parseMoney(text);
  const save = async () => {
    if (!parsed.ok) return;
    if (parsed.mills === value) return setText(null);
    setBusy(true);
    const saved = await onSave(parsed.mills);
    setBusy(false);
    if (saved) setText(null);
  };
  return (
    <span className="relative inline-block">
      <input
        aria-label={label}
        aria-invalid={!parsed.ok}
        title={parsed.ok ? "Enter saves, Escape leaves" : "An amount such as 12.50"}
        autoFocus
        readOnly={busy}
        inputMode="decimal"
        className={`h-7 w-20 rounded border bg-surface px-1 text-right num ${parsed.ok ? "border-petrol" : "border-ember"}`}
        value={text}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setText(event.target.value)}
        // What was typed stays until it is saved or left by Escape; only an untouched field closes by itself.
        onBlur={() => {
          if (!busy && (text === "" || (parsed.ok && parsed.mills === value))) setText(null);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") void save();
          if (event.key === "Escape") setText(null);
        }}
      />
      {beside}
    </span>
  );
}

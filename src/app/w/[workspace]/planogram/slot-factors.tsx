"use client";

import type { Campaign } from "@/core/account/records/campaign";
import { SLOT_KEYS, SLOT_LABEL, type SlotKey } from "@/core/kit/slots";
import { Field } from "@/ui/field";
import { SettledInput } from "@/ui/settled-input";

/** Factors on bids by slot, a field each; 1 leaves a bid as it is. */
export function SlotFactors({
  value,
  onChange,
}: {
  value: Campaign["slots"];
  /** Undefined where no slot has a factor. */
  onChange: (slots: Campaign["slots"]) => void;
}) {
  const set = (slot: SlotKey, text: string) => {
    const factor = Number(text.replace(",", "."));
    if (text === "" || !Number.isFinite(factor) || factor < 0 || factor > 10) return false;
    if (factor === (value?.[slot] ?? 1)) return false;
    const { [slot]: _, ...others } = value ?? {};
    const slots = factor === 1 ? others : { ...others, [slot]: factor };
    onChange(Object.keys(slots).length > 0 ? slots : undefined);
  };
  return SLOT_KEYS.map((slot) => (
    <Field key={slot} label={`× in ${SLOT_LABEL[slot].toLowerCase()}`}>
      {(props) => (
        <SettledInput
          {...props}
          inputMode="decimal"
          value={String(value?.[slot] ?? 1)}
          onSettle={(text) => set(slot, text)}
        />
      )}
    </Field>
  ));
}

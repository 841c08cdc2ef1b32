import { useState } from "react";
import type { ShelfSet } from "@/core/shelves/shelf-set";
import { Field, TextInput } from "@/ui/field";

/** A number field that keeps what is typed until it is one. */
export function NumberInput({
  value,
  onChange,
  ...rest
}: {
  value: number | null;
  onChange: (value: number | null) => void;
  id?: string;
  className?: string;
  "aria-label"?: string;
}) {
  const [text, setText] = useState<string | null>(null);
  return (
    <TextInput
      {...rest}
      inputMode="decimal"
      value={text ?? (value === null || Number.isNaN(value) ? "" : String(Number(value.toPrecision(12))))}
      onChange={(event) => {
        setText(event.target.value);
        const typed = event.target.value.trim().replace(",", ".");
        onChange(typed === "" ? null : Number(typed));
      }}
      onBlur={() => setText(null)}
    />
  );
}

/** What a set's shelves have in common. */
export function BuilderSettings({ draft, onChange }: { draft: ShelfSet; onChange: (draft: ShelfSet) => void }) {
  const number = (
    label: string,
    key: "goal" | "windowDays" | "leastClicks" | "leastOrders" | "patience",
    hint: string,
  ) => (
    <Field label={label} hint={hint}>
      {(props) => (
        <NumberInput {...props} value={draft[key]} onChange={(value) => onChange({ ...draft, [key]: value ?? NaN })} />
      )}
    </Field>
  );
  return (
    <section className="rounded-lg border border-line bg-surface p-3" aria-label="The set">
      <div className="grid grid-cols-[1.8fr_repeat(7,1fr)] gap-3">
        <Field label="Name">
          {(props) => (
            <TextInput
              {...props}
              value={draft.name}
              onChange={(event) => onChange({ ...draft, name: event.target.value })}
            />
          )}
        </Field>
        {number("Days", "windowDays", "Back from the last day.")}
        {number("Goal", "goal", "Sales per unit of cost.")}
        {number("Least clicks", "leastClicks", "To be read, or the orders.")}
        {number("Least orders", "leastOrders", "Below both: unread.")}
        <Field label="Margin, %" hint="Past a cut, to move at once.">
          {(props) => (
            <NumberInput
              {...props}
              value={draft.margin * 100}
              onChange={(value) => onChange({ ...draft, margin: (value ?? NaN) / 100 })}
            />
          )}
        </Field>
        {number("Patience", "patience", "Or days in a row past it.")}
        <Field label="Ask above, %" hint="Of items moving. Empty: never.">
          {(props) => (
            <NumberInput
              {...props}
              value={draft.askAbove === null ? null : draft.askAbove * 100}
              onChange={(value) => onChange({ ...draft, askAbove: value === null ? null : value / 100 })}
            />
          )}
        </Field>
      </div>
    </section>
  );
}

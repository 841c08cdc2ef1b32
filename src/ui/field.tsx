import { useId, type ComponentProps, type InputHTMLAttributes, type ReactNode, type SelectHTMLAttributes } from "react";
import { cx } from "./cx";

const BOX =
  "h-8 rounded-md border border-line bg-surface px-2 text-sm text-ink placeholder:text-soft disabled:opacity-60";

/** A labelled control with a hint or an error under it. */
export function Field({
  label,
  hint,
  error,
  children,
}: {
  label: string;
  hint?: ReactNode;
  error?: string;
  children: (props: { id: string; "aria-describedby"?: string; "aria-invalid"?: true }) => ReactNode;
}) {
  const id = useId();
  const noteId = `${id}-note`;
  const hasNote = Boolean(hint || error);
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-sm font-medium">
        {label}
      </label>
      {children({ id, ...(hasNote ? { "aria-describedby": noteId } : {}), ...(error ? { "aria-invalid": true } : {}) })}
      {hasNote && (
        <p id={noteId} className={cx("mt-1 text-xs", error ? "font-semibold text-ember" : "text-soft")}>
          {error ?? hint}
        </p>
      )}
    </div>
  );
}

export function TextInput({ className, ...rest }: ComponentProps<"input">) {
  return <input className={cx(BOX, "w-full", className)} {...rest} />;
}

export function Select({ className, ...rest }: SelectHTMLAttributes<HTMLSelectElement>) {
  return <select className={cx(BOX, "w-full pr-7", className)} {...rest} />;
}

export function Checkbox({ label, ...rest }: { label: ReactNode } & InputHTMLAttributes<HTMLInputElement>) {
  return (
    <label className="flex items-center gap-2 text-sm">
      <input type="checkbox" className="size-4 accent-petrol" {...rest} />
      <span>{label}</span>
    </label>
  );
}

/** One of some choices: values with their labels, or values that are their own. */
export function ChoiceSelect<Value extends string>({
  choices,
  value,
  onChange,
  ...rest
}: {
  choices: Readonly<Record<Value, string>> | readonly Value[];
  value: Value;
  onChange: (value: Value) => void;
} & Omit<ComponentProps<typeof Select>, "value" | "onChange" | "children">) {
  const all = Array.isArray(choices) ? choices.map((one: Value) => [one, one]) : Object.entries(choices);
  return (
    <Select {...rest} value={value} onChange={(event) => onChange(event.target.value as Value)}>
      {(all as [Value, string][]).map(([one, label]) => (
        <option key={one} value={one}>
          {label}
        </option>
      ))}
    </Select>
  );
}

import { Field, TextInput } from "./field";

interface Props {
  value: string;
  onChange: (value: string) => void;
}

/** A password: one that exists, or a new one, which browsers offer to make and to keep. */
export function PasswordField({
  label = "Password",
  isNew = false,
  hint = isNew ? "Twelve characters and more; several words are easy to keep." : undefined,
  ...rest
}: Props & { label?: string; isNew?: boolean; hint?: string | undefined; autoFocus?: boolean }) {
  const { value, onChange, autoFocus } = rest;
  return (
    <Field label={label} {...(hint ? { hint } : {})}>
      {(props) => (
        <TextInput
          {...props}
          type="password"
          autoFocus={autoFocus}
          autoComplete={isNew ? "new-password" : "current-password"}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}

/** A one-time code from an app. */
export function CodeField({
  label = "Code",
  hint = "If you use an app for codes.",
  value,
  onChange,
}: Props & { label?: string; hint?: string | undefined }) {
  return (
    <Field label={label} {...(hint ? { hint } : {})}>
      {(props) => (
        <TextInput
          {...props}
          inputMode="numeric"
          autoComplete="one-time-code"
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}

/** Says that signing in takes longer than usual, and why. */
export function WorkNote() {
  return (
    <p role="status" className="rounded-md bg-petrol-wash px-3 py-2 text-sm">
      There were many failed tries, so your browser does some work first. That takes some seconds; others can&apos;t
      lock you out.
    </p>
  );
}

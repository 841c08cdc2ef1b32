"use client";

import { Field, TextInput } from "@/ui/field";

export interface Login {
  user: string;
  password: string;
}

/** User and password of an address that asks for them. A password that is kept is never shown, only replaced. */
export function LoginFields({
  login,
  onChange,
  isKept = false,
}: {
  login: Login;
  onChange: (login: Login) => void;
  /** Whether a password is kept already. */
  isKept?: boolean;
}) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <Field label="User" hint="If it asks for a login.">
        {(props) => (
          <TextInput
            {...props}
            autoComplete="off"
            value={login.user}
            onChange={(event) => onChange({ ...login, user: event.target.value })}
          />
        )}
      </Field>
      <Field
        label="Password"
        hint={isKept ? "One is kept; it stays if this is empty." : "Kept sealed, never shown again."}
      >
        {(props) => (
          <TextInput
            {...props}
            type="password"
            autoComplete="new-password"
            placeholder={isKept ? "••••••••" : undefined}
            value={login.password}
            onChange={(event) => onChange({ ...login, password: event.target.value })}
          />
        )}
      </Field>
    </div>
  );
}

/** An address with its login as it is sent; what is empty is left out. */
export function withLogin(url: string, { user, password }: Login) {
  return {
    kind: "url" as const,
    url: url.trim(),
    ...(user.trim() && { user: user.trim() }),
    ...(password && { password }),
  };
}

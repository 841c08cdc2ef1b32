"use client";

import { parseAsString, useQueryState } from "nuqs";
import { Suspense, useState } from "react";
import type { Failure } from "@/core/kit/outcome";
import { Button, buttonClasses } from "@/ui/button";
import { Field, TextInput } from "@/ui/field";
import { Logo } from "@/ui/logo";
import { CodeField, PasswordField, WorkNote } from "@/ui/secret-fields";
import { ErrorNote } from "@/ui/notes";
import { ApiError, apiProve, leaveFor } from "../_lib/api";
import { useSession } from "../_lib/session";

export default function SignInPage() {
  return (
    <Suspense>
      <SignIn />
    </Suspense>
  );
}

/** Why signing in at an identity provider did not work, by the code that it came back with. */
const TROUBLES: Record<string, Failure> = Object.fromEntries(
  [
    [
      "elsewhere-unknown",
      "Nobody with your address was invited here.",
      "Ask an owner of a workspace for an invitation.",
    ],
    [
      "elsewhere-unverified",
      "Your organisation vouches for no e-mail address of yours.",
      "Ask whoever runs its sign-in.",
    ],
    ["elsewhere-lost", "That took too long, or began in another browser.", "Begin again."],
    ["elsewhere-failed", "Your organisation's sign-in did not work.", "Try again; the server's log has the reason."],
  ].map(([code, message, hint]) => [code, { code: code!, message: message!, hint: hint! }]),
);

function SignIn() {
  const [to] = useQueryState("to", parseAsString.withDefault("/"));
  const [trouble] = useQueryState("trouble", parseAsString.withDefault(""));
  const session = useSession();
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [error, setError] = useState<Failure | null>(null);
  const [isBusy, setBusy] = useState(false);
  const [isAtWork, setAtWork] = useState(false);
  const signIn = async () => {
    setBusy(true);
    setError(null);
    try {
      await apiProve("session", { email: email.trim(), password, ...(code && { code }) }, () => setAtWork(true));
      leaveFor(to);
    } catch (failure) {
      setBusy(false);
      setAtWork(false);
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    }
  };
  return (
    <main className="mx-auto max-w-sm px-6 py-16">
      <div className="mb-8 flex items-center gap-2 font-display text-xl font-semibold">
        <Logo /> Hot Shelf
      </div>
      <h1 className="mb-4 font-display text-2xl font-semibold">Sign in</h1>
      {session.data?.isFirst && (
        <p className="mb-4 rounded-md bg-petrol-wash px-3 py-2">
          Nobody can sign in yet. Open the link that was printed where the server was started; a restart prints a new
          one.
        </p>
      )}
      {(error ?? TROUBLES[trouble]) && <ErrorNote error={(error ?? TROUBLES[trouble])!} />}
      {session.data?.isElsewhereOn && (
        <p className="mb-5">
          <a className={buttonClasses("plain")} href={`/api/v1/session/elsewhere?to=${encodeURIComponent(to)}`}>
            Sign in with your organisation
          </a>
        </p>
      )}
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void signIn();
        }}
      >
        <Field label="E-mail address">
          {(props) => (
            <TextInput
              {...props}
              type="email"
              autoComplete="username"
              autoFocus
              value={email}
              onChange={(event) => setEmail(event.target.value)}
            />
          )}
        </Field>
        <PasswordField value={password} onChange={setPassword} />
        <CodeField value={code} onChange={setCode} />
        {isAtWork && <WorkNote />}
        <Button look="ember" type="submit" disabled={isBusy || email === "" || password === ""}>
          Sign in
        </Button>
      </form>
      <p className="mt-6 text-sm text-soft">
        Forgot the password? Whoever set this installation up can send you a link for a new one.
      </p>
    </main>
  );
}

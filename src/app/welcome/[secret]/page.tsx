"use client";

import { useParams } from "next/navigation";
import { useState } from "react";
import type { Failure } from "@/core/kit/outcome";
import { ROLE_WORDS, type Role } from "@/server/sign-in/roles";
import { Button } from "@/ui/button";
import { Field, TextInput } from "@/ui/field";
import { Logo } from "@/ui/logo";
import { ErrorNote, Loading } from "@/ui/notes";
import { PasswordField } from "@/ui/secret-fields";
import { ApiError, apiSend, leaveFor, useApi } from "../../_lib/api";

interface Invitation {
  email: string | null;
  workspace: string | null;
  role: Role | null;
  isRenewal: boolean;
  makesFounder: boolean;
}

/** Where a link of an invitation leads: one names oneself and chooses a password, and is in. */
export default function WelcomePage() {
  const { secret } = useParams<{ secret: string }>();
  const invitation = useApi<Invitation>(`invitations/${secret}`);
  return (
    <main className="mx-auto max-w-md px-6 py-16">
      <div className="mb-8 flex items-center gap-2 font-display text-xl font-semibold">
        <Logo /> Hot Shelf
      </div>
      {invitation.isPending && <Loading what="the invitation" />}
      {invitation.error && <ErrorNote error={invitation.error.failure} />}
      {invitation.data && <Accept secret={secret} invitation={invitation.data} />}
    </main>
  );
}

function Accept({ secret, invitation }: { secret: string; invitation: Invitation }) {
  const [email, setEmail] = useState(invitation.email ?? "");
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [error, setError] = useState<Failure | null>(null);
  const accept = async () => {
    if (password !== again) {
      setError({ code: "differ", message: "The two passwords differ.", hint: "Nothing was kept yet." });
      return;
    }
    try {
      const person = invitation.isRenewal ? {} : { name: name.trim(), ...(email && { email: email.trim() }) };
      const { isIn } = await apiSend<{ isIn: boolean }>(`invitations/${secret}`, { ...person, password });
      leaveFor(!isIn ? "/sign-in" : invitation.workspace ? `/w/${invitation.workspace}` : "/");
    } catch (failure) {
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    }
  };
  return (
    <>
      <h1 className="font-display text-2xl font-semibold">
        {invitation.isRenewal ? "A new password" : invitation.makesFounder ? "Set Hot Shelf up" : "Come in"}
      </h1>
      <p className="mt-1 mb-4 text-soft">
        {invitation.isRenewal
          ? "Where you are signed in now ends with it."
          : invitation.makesFounder
            ? "You will own every workspace, and are the one to make new ones and to invite others."
            : `You are invited to ${invitation.workspace} as ${invitation.role}: who has that role ${invitation.role ? ROLE_WORDS[invitation.role] : ""}.`}
      </p>
      {error && <ErrorNote error={error} />}
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void accept();
        }}
      >
        {!invitation.isRenewal && (
          <>
            <Field label="E-mail address">
              {(props) => (
                <TextInput
                  {...props}
                  type="email"
                  autoComplete="username"
                  readOnly={invitation.email !== null}
                  value={email}
                  onChange={(event) => setEmail(event.target.value)}
                />
              )}
            </Field>
            <Field label="Name" hint="It stands beside what you change.">
              {(props) => (
                <TextInput
                  {...props}
                  autoComplete="name"
                  value={name}
                  onChange={(event) => setName(event.target.value)}
                />
              )}
            </Field>
          </>
        )}
        <PasswordField isNew value={password} onChange={setPassword} />
        <PasswordField isNew label="Password again" hint="" value={again} onChange={setAgain} />
        <Button
          look="ember"
          type="submit"
          disabled={password === "" || (!invitation.isRenewal && (name.trim() === "" || email === ""))}
        >
          {invitation.isRenewal ? "Keep the new password" : "Come in"}
        </Button>
      </form>
    </>
  );
}

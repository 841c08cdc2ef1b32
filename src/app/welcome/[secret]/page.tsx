"use client";

import { useParams } from "next/navigation";
import { useState } from "react";
import type { Failure } from "@/core/kit/outcome";
import { ROLE_WORDS, type Role } from "@/server/sign-in/roles";
import { Button } from "@/ui/button";
import { Field, TextInput } from "@/ui/field";
import { Logo } from "@/ui/logo";
import { ErrorNote, Loading } from "@/ui/notes";
import { CodeField, PasswordField, WorkNote } from "@/ui/secret-fields";
import { ApiError, apiProve, apiSend, leaveFor, useApi } from "../../_lib/api";
import { useSession } from "../../_lib/session";

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
  const session = useSession();
  return (
    <main className="mx-auto max-w-md px-6 py-16">
      <div className="mb-8 flex items-center gap-2 font-display text-xl font-semibold">
        <Logo /> Hot Shelf
      </div>
      {invitation.isPending && <Loading what="the invitation" />}
      {invitation.error && <ErrorNote error={invitation.error.failure} />}
      {invitation.data && !session.isPending && <Accept secret={secret} invitation={invitation.data} />}
    </main>
  );
}

/** Where somebody goes once they have taken a link up. */
function goOn(invitation: Invitation, isIn: boolean): void {
  leaveFor(!isIn ? "/sign-in" : invitation.workspace ? `/w/${invitation.workspace}` : "/");
}

function titleOf({ isRenewal, makesFounder }: Invitation): string {
  if (isRenewal) return "A new password";
  return makesFounder ? "Set Hot Shelf up" : "Come in";
}

function aboutOf({ isRenewal, makesFounder, workspace, role }: Invitation): string {
  if (isRenewal) return "Where you are signed in now ends with it.";
  if (makesFounder) return "You will own every workspace, and are the one to make new ones and to invite others.";
  return `You are invited to ${workspace} as ${role}: who has that role ${role ? ROLE_WORDS[role] : ""}.`;
}

function Accept({ secret, invitation }: { secret: string; invitation: Invitation }) {
  const session = useSession();
  const isOneself = invitation.email !== null && session.data?.email === invitation.email;
  return (
    <>
      <h1 className="font-display text-2xl font-semibold">{titleOf(invitation)}</h1>
      <p className="mt-1 mb-4 text-soft">{aboutOf(invitation)}</p>
      {isOneself && !invitation.isRenewal ? (
        <Join secret={secret} invitation={invitation} who={session.data?.who ?? ""} />
      ) : (
        <Prove secret={secret} invitation={invitation} />
      )}
    </>
  );
}

/** For somebody who is signed in as the one whom the link invites. */
function Join({ secret, invitation, who }: { secret: string; invitation: Invitation; who: string }) {
  const [error, setError] = useState<Failure | null>(null);
  const join = () =>
    apiSend<{ isIn: boolean }>(`invitations/${secret}`, { password: "" })
      .then(({ isIn }) => goOn(invitation, isIn))
      .catch((failure: unknown) => setError(failure instanceof ApiError ? failure.failure : null));
  return (
    <>
      {error && <ErrorNote error={error} />}
      <Button look="ember" onClick={() => void join()}>
        Come in as {who}
      </Button>
    </>
  );
}

function Prove({ secret, invitation }: { secret: string; invitation: Invitation }) {
  const [email, setEmail] = useState(invitation.email ?? "");
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [code, setCode] = useState("");
  const [isHere, setHere] = useState(false);
  const [error, setError] = useState<Failure | null>(null);
  const [isAtWork, setAtWork] = useState(false);
  const isNew = !isHere;
  const accept = async () => {
    if (isNew && password !== again) {
      setError({ code: "differ", message: "The two passwords differ.", hint: "Nothing was kept yet." });
      return;
    }
    try {
      const person = {
        ...(!invitation.isRenewal && isNew && { name: name.trim() }),
        ...(!invitation.isRenewal && email && { email: email.trim() }),
        ...(code && { code }),
      };
      const given = { ...person, password };
      const { isIn } = await apiProve<{ isIn: boolean }>(`invitations/${secret}`, given, () => setAtWork(true));
      goOn(invitation, isIn);
    } catch (failure) {
      setAtWork(false);
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    }
  };
  const lacks = password === "" || (!invitation.isRenewal && (email === "" || (isNew && name.trim() === "")));
  return (
    <>
      {error && <ErrorNote error={error} />}
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void accept();
        }}
      >
        {!invitation.isRenewal && (
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
        )}
        {!invitation.isRenewal && !invitation.makesFounder && (
          <label className="flex items-center gap-2 text-sm">
            <input type="checkbox" checked={isHere} onChange={(event) => setHere(event.target.checked)} />I sign in here
            with this address already
          </label>
        )}
        {!invitation.isRenewal && isNew && (
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
        )}
        <PasswordField isNew={isNew} value={password} onChange={setPassword} />
        {isNew ? (
          <PasswordField isNew label="Password again" hint="" value={again} onChange={setAgain} />
        ) : (
          <CodeField value={code} onChange={setCode} />
        )}
        {isAtWork && <WorkNote />}
        <Button look="ember" type="submit" disabled={lacks}>
          {invitation.isRenewal ? "Keep the new password" : "Come in"}
        </Button>
      </form>
    </>
  );
}

"use client";

import { formatDistanceToNowStrict } from "date-fns";
import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { Button } from "@/ui/button";
import { Logo } from "@/ui/logo";
import { Loading } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { CodeField, PasswordField } from "@/ui/secret-fields";
import { apiDelete, apiSend, toastError, useApi } from "../_lib/api";
import { useSession } from "../_lib/session";
import { useRefresh } from "../_lib/workspace";

interface OwnSession {
  id: string;
  createdAt: number;
  seenAt: number;
  agent: string;
  isThis: boolean;
}

/** One's own account: where one is signed in, the password, codes. */
export default function MePage() {
  const session = useSession();
  return (
    <main className="mx-auto max-w-2xl space-y-4 px-6 py-12">
      <Link href="/" className="flex items-center gap-2 font-display text-xl font-semibold">
        <Logo /> Hot Shelf
      </Link>
      <h1 className="font-display text-2xl font-semibold">My account</h1>
      {session.isPending && <Loading what="the account" />}
      {session.data && !session.data.isOn && <p>On this machine nobody signs in, so there is no account.</p>}
      {session.data?.isOn && (
        <>
          <p className="text-soft">
            {session.data.who}, {session.data.email}
          </p>
          <Sessions />
          <Password />
          <Codes hasCodes={session.data.hasCodes} email={session.data.email ?? ""} />
        </>
      )}
    </main>
  );
}

function Sessions() {
  const refresh = useRefresh();
  const sessions = useApi<OwnSession[]>("me/sessions");
  const end = (id: string) => apiDelete(`me/sessions/${id}`).then(refresh).catch(toastError);
  return (
    <Surface title="Signed in at">
      <ul className="divide-y divide-line text-sm">
        {sessions.data?.map(({ id, createdAt, seenAt, agent, isThis }) => (
          <li key={id} className="flex items-center gap-3 py-1.5">
            <span className="min-w-0 flex-1 truncate" title={agent}>
              {isThis ? "This browser" : agent || "a browser that does not say what it is"}
            </span>
            <span className="text-soft">
              for {formatDistanceToNowStrict(createdAt)}, used {formatDistanceToNowStrict(seenAt, { addSuffix: true })}
            </span>
            {!isThis && (
              <Button look="quiet" onClick={() => void end(id)}>
                Sign out there
              </Button>
            )}
          </li>
        ))}
      </ul>
    </Surface>
  );
}

function Password() {
  const [password, setPassword] = useState("");
  const save = async () => {
    try {
      await apiSend("me/password", { password }, "PUT");
      setPassword("");
      toast.success("The new password is kept; everywhere else you are signed out");
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Surface title="Password">
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <PasswordField isNew label="New password" value={password} onChange={setPassword} />
        <Button type="submit" disabled={password === ""}>
          Keep it
        </Button>
      </form>
    </Surface>
  );
}

function Codes({ hasCodes, email }: { hasCodes: boolean; email: string }) {
  const refresh = useRefresh();
  const [made, setMade] = useState<{ secret: string; uri: string } | null>(null);
  const [code, setCode] = useState("");
  const attempt = (work: () => Promise<unknown>) => work().then(refresh).catch(toastError);
  const confirm = async () => {
    await apiSend("me/codes", { secret: made?.secret, code }, "PUT");
    setMade(null);
    setCode("");
    toast.success("From now on signing in asks for a code too");
  };
  if (hasCodes) {
    return (
      <Surface title="One-time codes">
        <p className="mb-3 text-sm text-soft">Signing in asks for a code from your app.</p>
        <Button onClick={() => void attempt(() => apiDelete("me/codes"))}>Ask for none any more</Button>
      </Surface>
    );
  }
  return (
    <Surface title="One-time codes">
      <p className="mb-3 text-sm text-soft">
        With an app for one-time codes a password alone opens nothing. Add an account there for {email}, by this secret.
      </p>
      {made === null ? (
        <Button onClick={() => void attempt(async () => setMade(await apiSend("me/codes")))}>Begin</Button>
      ) : (
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            void attempt(confirm);
          }}
        >
          <code className="block font-mono text-sm break-all">{made.secret}</code>
          <a className="text-sm text-petrol hover:underline" href={made.uri}>
            Open in an app on this device
          </a>
          <CodeField label="The code that the app shows now" hint="" value={code} onChange={setCode} />
          <Button look="ember" type="submit" disabled={code.trim() === ""}>
            Use codes
          </Button>
        </form>
      )}
    </Surface>
  );
}

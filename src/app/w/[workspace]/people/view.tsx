"use client";

import { formatDistanceToNowStrict } from "date-fns";
import { useState } from "react";
import { ROLES, ROLE_WORDS, type Role } from "@/server/sign-in/roles";
import { Button } from "@/ui/button";
import { ChoiceSelect, Field, Select, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiDelete, apiSend, toastError, useApi } from "../../../_lib/api";
import { Who } from "@/ui/who";
import { useSession } from "../../../_lib/session";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { ShownOnce } from "./shown-once";
import { AccessLog } from "./access-log";
import { Tokens } from "./tokens";

interface People {
  people: { id: string; email: string; name: string; role: Role; isFounder: boolean; hasCodes: boolean }[];
  invitations: { id: string; email: string | null; role: Role | null; createdBy: string; expiresAt: number }[];
}

/** Who may come in and do what; keys of scripts; what was tried. */
export default function PeoplePage() {
  const apiPath = useApiPath();
  const people = useApi<People>(apiPath("people"));
  useOwnWindow("As it is now");
  return (
    <div className="space-y-3">
      <PageHead title="People and tokens" facts="A role holds for this workspace, and holds all those before it" />
      {people.error && <ErrorNote error={people.error.failure} />}
      {people.isPending && <Loading what="people" />}
      {people.data && (
        <>
          <PeopleList people={people.data} />
          <Invite />
          <Tokens />
          <AccessLog />
        </>
      )}
    </div>
  );
}

function PeopleList({ people: { people, invitations } }: { people: People }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { slug } = useWorkspace();
  const session = useSession(slug);
  const [link, setLink] = useState<{ name: string; link: string } | null>(null);
  const attempt = (work: () => Promise<unknown>) => work().then(refresh).catch(toastError);
  const setRole = (id: string, role: Role | null) => apiSend(apiPath(`people/${id}`), { role }, "PUT");
  const renew = async (id: string, name: string) => {
    const made = await apiSend<{ link: string }>(apiPath(`people/${id}/renewal`));
    setLink({ name, link: window.location.origin + made.link });
  };
  return (
    <Surface title="People">
      {people.length === 0 && invitations.length === 0 && (
        <p className="text-sm text-soft">
          {session.data?.isOn === false
            ? "Nobody signs in here: whoever works at this machine owns every workspace. Signing in begins with HOTSHELF_SIGN_IN, or once others can reach the server; people who are invited till then can come in from that day on."
            : "Nobody has a role here yet but who founded it."}
        </p>
      )}
      <ul className="divide-y divide-line">
        {people.map(({ id, email, name, role, isFounder, hasCodes }) => (
          <li key={id} className="flex items-center gap-3 py-1.5 text-sm">
            <span className="w-40 truncate font-semibold">{name}</span>
            <span className="min-w-0 flex-1 truncate text-soft">
              {email}
              {hasCodes && " · with codes"}
            </span>
            {isFounder ? (
              <span className="text-soft">owns every workspace</span>
            ) : (
              <>
                <Select
                  aria-label={`Role of ${name}`}
                  className="w-32!"
                  value={role}
                  onChange={(event) => void attempt(() => setRole(id, event.target.value as Role))}
                >
                  {ROLES.map((one) => (
                    <option key={one}>{one}</option>
                  ))}
                </Select>
                {session.data?.isFounder && (
                  <Button look="quiet" onClick={() => void attempt(() => renew(id, name))}>
                    New password link
                  </Button>
                )}
                <Button look="quiet" onClick={() => void attempt(() => setRole(id, null))}>
                  Take out
                </Button>
              </>
            )}
          </li>
        ))}
        {invitations.map(({ id, email, role, createdBy, expiresAt }) => (
          <li key={id} className="flex items-center gap-3 py-1.5 text-sm">
            <span className="w-40 truncate text-soft">
              invited by <Who who={createdBy} />
            </span>
            <span className="min-w-0 flex-1 truncate">
              {email} as {role}, for another {formatDistanceToNowStrict(expiresAt)}
            </span>
            <Button look="quiet" onClick={() => void attempt(() => apiDelete(apiPath(`invitations/${id}`)))}>
              Withdraw
            </Button>
          </li>
        ))}
      </ul>
      {link && (
        <ShownOnce text={link.link} says={`Give ${link.name} this link. It is shown once and lasts seven days.`} />
      )}
    </Surface>
  );
}

function Invite() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [email, setEmail] = useState("");
  const [role, setRole] = useState<Role>("viewer");
  const [link, setLink] = useState<{ email: string; link: string } | null>(null);
  const invite = async () => {
    try {
      const made = await apiSend<{ link: string }>(apiPath("people"), { email: email.trim(), role });
      setLink({ email: email.trim(), link: window.location.origin + made.link });
      setEmail("");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Surface title="Invite somebody">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void invite();
        }}
      >
        <Field label="E-mail address">
          {(props) => (
            <TextInput
              {...props}
              type="email"
              className="w-72!"
              value={email}
              onChange={(event) => setEmail(event.target.value)}
            />
          )}
        </Field>
        <Field label="Role">
          {(props) => <ChoiceSelect {...props} value={role} onChange={setRole} choices={ROLES} />}
        </Field>
        <Button look="ember" type="submit" disabled={email.trim() === ""}>
          Invite
        </Button>
        <p className="pb-1.5 text-sm text-soft">Who has it {ROLE_WORDS[role]}.</p>
      </form>
      {link && (
        <ShownOnce text={link.link} says={`Send ${link.email} this link. It is shown once and lasts seven days.`} />
      )}
    </Surface>
  );
}

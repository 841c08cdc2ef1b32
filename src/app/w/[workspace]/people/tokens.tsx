"use client";

import { formatDistanceToNowStrict } from "date-fns";
import { useState } from "react";
import { ROLES, type Role } from "@/server/sign-in/roles";
import { Button } from "@/ui/button";
import { ChoiceSelect, Field, Select, TextInput } from "@/ui/field";
import { Surface } from "@/ui/page";
import { Who } from "@/ui/who";
import { apiDelete, apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";
import { ShownOnce } from "./shown-once";

interface Token {
  id: string;
  name: string;
  role: Role;
  createdBy: string;
  expiresAt: number;
  usedAt: number | null;
  isExpired: boolean;
}

const DAYS = [7, 30, 90, 365];
/** A script can't own: who may come in is for people to say. */
const TOKEN_ROLES = ROLES.filter((role) => role !== "owner");

/** Keys with which scripts ask in place of a person. */
export function Tokens() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const tokens = useApi<Token[]>(apiPath("tokens"));
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("viewer");
  const [days, setDays] = useState(90);
  const [made, setMade] = useState<{ name: string; token: string } | null>(null);
  const make = async () => {
    try {
      const { token } = await apiSend<{ token: string }>(apiPath("tokens"), { name: name.trim(), role, days });
      setMade({ name: name.trim(), token });
      setName("");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Surface title="Tokens for scripts">
      {tokens.data?.length === 0 && (
        <p className="mb-3 text-sm text-soft">
          A script asks with a token of its own: for this workspace, one role, and a time. None was made yet.
        </p>
      )}
      <ul className="mb-3 divide-y divide-line">
        {tokens.data?.map((token) => (
          <li key={token.id} className="flex items-center gap-3 py-1.5 text-sm">
            <span className="w-40 truncate font-semibold">{token.name}</span>
            <span className="min-w-0 flex-1 truncate text-soft">
              {token.role}, made by <Who who={token.createdBy} />,{" "}
              {token.isExpired ? "expired" : `for another ${formatDistanceToNowStrict(token.expiresAt)}`},{" "}
              {token.usedAt === null ? "never used" : `used ${formatDistanceToNowStrict(token.usedAt)} ago`}
            </span>
            <Button
              look="quiet"
              onClick={() =>
                void apiDelete(apiPath(`tokens/${token.id}`))
                  .then(refresh)
                  .catch(toastError)
              }
            >
              Revoke
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void make();
        }}
      >
        <Field label="What it is for">
          {(props) => (
            <TextInput {...props} className="w-64!" value={name} onChange={(event) => setName(event.target.value)} />
          )}
        </Field>
        <Field label="Role">
          {(props) => <ChoiceSelect {...props} value={role} onChange={setRole} choices={TOKEN_ROLES} />}
        </Field>
        <Field label="Lasts">
          {(props) => (
            <Select {...props} value={days} onChange={(event) => setDays(Number(event.target.value))}>
              {DAYS.map((one) => (
                <option key={one} value={one}>
                  {one} days
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Button type="submit" disabled={name.trim() === ""}>
          Make a token
        </Button>
      </form>
      {made && (
        <ShownOnce
          text={made.token}
          says={`The token "${made.name}" is shown this once. Sent as Authorization: Bearer …`}
        />
      )}
    </Surface>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatMoment, plural } from "@/core/kit/format";
import type { Failure } from "@/core/kit/outcome";
import type { AddressView } from "@/server/alerts/messages";
import { Button } from "@/ui/button";
import { Field, TextInput } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { ApiError, apiSend, useApi } from "../../../_lib/api";
import { useSession } from "../../../_lib/session";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { ShownOnce } from "../people/shown-once";

const WHAT: Record<string, string> = { "alert.speaks": "An alert", "week.told": "A week", test: "A test" };
const STATE = { waiting: "waits for its next try", sent: "arrived", failed: "did not arrive" };

/** Where word of alerts and weeks is sent: an address of one's own, signed; and what became of the last messages. */
export function AlertAddress() {
  const apiPath = useApiPath();
  const { slug } = useWorkspace();
  // An address often holds a secret itself, so it is for those who may set it.
  const mayRead = useSession(slug).data?.role === "owner";
  const view = useApi<AddressView>(mayRead ? apiPath("alert-address") : null);
  if (!mayRead) return null;
  return (
    <Surface title="Sent to">
      {view.error && <ErrorNote error={view.error.failure} />}
      {view.data && <AddressForm key={view.data.url} view={view.data} />}
    </Surface>
  );
}

function AddressForm({ view }: { view: AddressView }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { timeZone } = useWorkspace();
  const [form, setForm] = useState({ url: view.url, sendsAlerts: view.sendsAlerts, sendsWeeks: view.sendsWeeks });
  const [secret, setSecret] = useState<string | null>(null);
  const [error, setError] = useState<Failure | null>(null);
  const attempt = async (work: () => Promise<void>) => {
    setError(null);
    try {
      await work();
    } catch (failure) {
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    }
    await refresh();
  };
  const keep = (newSecret: boolean) =>
    attempt(async () => {
      const done = await apiSend<{ secret: string | null }>(apiPath("alert-address"), { ...form, newSecret }, "PUT");
      setSecret(done.secret);
      toast.success(form.url === "" ? "Nothing is sent any more." : "Kept.");
    });
  const test = () =>
    attempt(async () => {
      const { messages } = await apiSend<AddressView>(apiPath("alert-address/test"));
      const [last] = messages;
      if (last?.state === "sent") toast.success("The test arrived.");
      else toast.error("The test did not arrive.", { description: last?.note ?? "" });
    });
  return (
    <form
      className="space-y-3 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void keep(false);
      }}
    >
      <p className="text-soft">
        JSON by POST to an address of your own, each message signed (Standard Webhooks: HMAC-SHA256 over ID, time and
        body). What does not arrive is tried eight times over some ten hours.
      </p>
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-96">
          <Field label="Address">
            {(props) => (
              <TextInput
                {...props}
                type="url"
                placeholder="https://"
                value={form.url}
                onChange={(event) => setForm({ ...form, url: event.target.value.trim() })}
              />
            )}
          </Field>
        </div>
        {(["sendsAlerts", "sendsWeeks"] as const).map((name) => (
          <label key={name} className="flex h-8 items-center gap-2">
            <input
              type="checkbox"
              checked={form[name]}
              onChange={(event) => setForm({ ...form, [name]: event.target.checked })}
            />
            {name === "sendsAlerts" ? "Alerts that begin to speak up" : "Each week when it is over"}
          </label>
        ))}
      </div>
      {error && <ErrorNote error={error} />}
      {secret && <ShownOnce text={secret} says="Messages are signed with this secret. It is shown this once." />}
      <div className="flex gap-2">
        <Button type="submit">Keep</Button>
        {view.url !== "" && (
          <>
            <Button type="button" onClick={() => void test()}>
              Send a test
            </Button>
            <Button type="button" look="quiet" onClick={() => void keep(true)}>
              Draw a new secret
            </Button>
          </>
        )}
      </div>
      {view.messages.length > 0 && (
        <ul aria-label="Last messages" className="border-t border-line pt-2">
          {view.messages.map(({ id, at, what, state, tries, note }) => (
            <li key={id} className="py-0.5 num">
              {formatMoment(at, timeZone)} · {WHAT[what] ?? what} {STATE[state]}
              {state !== "sent" && tries > 0 && ` after ${plural(tries, "try", "tries")}`}
              {note && <span className="text-soft"> · {note}</span>}
            </li>
          ))}
        </ul>
      )}
    </form>
  );
}

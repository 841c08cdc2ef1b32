"use client";

import { useState } from "react";
import { toast } from "sonner";
import type { ChannelView } from "@/server/dispatch/channel-view";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ChoiceSelect, Field, TextInput } from "@/ui/field";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

const KINDS = {
  market: "the test market",
  files: "files that a person carries",
  http: "a program at an address",
} as const;

/** Chooses where the workspace sends to from now on. */
export function ChooseChannel({ now, onClose }: { now: ChannelView; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [kind, setKind] = useState(now.kind);
  const [address, setAddress] = useState(now.address);
  const [token, setToken] = useState("");
  const [busy, setBusy] = useState(false);
  const choose = async () => {
    setBusy(true);
    try {
      await apiSend(apiPath("channel"), kind === "http" ? { kind, address, token } : { kind }, "PUT");
      toast.success(`Sends to ${KINDS[kind]} from now on`);
      await refresh();
      onClose();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const isSame = kind === now.kind && kind !== "http";
  return (
    <Dialog open onClose={onClose} title="Choose the channel">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void choose();
        }}
      >
        <Field label="Sends to">
          {(props) => <ChoiceSelect {...props} choices={KINDS} value={kind} onChange={setKind} />}
        </Field>
        {kind === "http" && (
          <>
            <Field label="Address" hint="Where a program speaks what docs/channel.md describes.">
              {(props) => (
                <TextInput
                  {...props}
                  type="url"
                  required
                  placeholder="https://ads.example/hot-shelf"
                  value={address}
                  onChange={(event) => setAddress(event.target.value)}
                />
              )}
            </Field>
            <Field label="Token" hint="Kept sealed on the server; it is not shown again.">
              {(props) => (
                <TextInput
                  {...props}
                  type="password"
                  required
                  autoComplete="off"
                  value={token}
                  onChange={(event) => setToken(event.target.value)}
                />
              )}
            </Field>
          </>
        )}
        <p className="rounded-md bg-raised px-3 py-2 text-sm">
          Nothing is sent by choosing, and the basket, results and history stay.
          {kind !== now.kind &&
            " What Hot Shelf thinks stands there is what the old channel had: read the new one back first, then send."}
          {kind !== "market" && " The test market runs no more days here."}
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" look="ember" disabled={busy || isSame}>
            Send there from now on
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

"use client";

import { useState, type ReactNode } from "react";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { apiSend, toastError } from "../../_lib/api";
import { sayDone } from "../../_lib/undo";
import { useApiPath, useRefresh } from "../../_lib/workspace";

/** Asks why something is put aside, and puts it there; it can be taken up again from the message. */
export function PutAsideDialog({
  title,
  what,
  path,
  about = {},
  onClose,
  children,
}: {
  title: string;
  /** What it is called. */
  what: string;
  /** Where the reason is put, below the workspace; an empty one takes it up again. */
  path: string;
  /** What goes along with the reason. */
  about?: object;
  onClose: () => void;
  /** How long it stays aside. */
  children: ReactNode;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [reason, setReason] = useState("");
  const put = (why: string) => apiSend(apiPath(path), { ...about, reason: why }, "PUT");
  const send = async () => {
    try {
      await put(reason);
      sayDone(`Put aside: ${what}`, () => put("").then(refresh));
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Dialog open onClose={onClose} title={title}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void send();
        }}
      >
        <p>{children}</p>
        <Field label="Why">
          {(props) => (
            <TextInput
              {...props}
              autoFocus
              maxLength={400}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </Field>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="ember" type="submit" disabled={reason.trim() === ""}>
            Put aside
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

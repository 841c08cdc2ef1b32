"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";

/** Asks why some lines are decided against. */
export function NoteDialog({
  count,
  onKeep,
  onClose,
}: {
  count: number;
  onKeep: (reason: string) => Promise<void>;
  onClose: () => void;
}) {
  const [reason, setReason] = useState("");
  const [busy, setBusy] = useState(false);
  return (
    <Dialog open onClose={onClose} title={`Decide against ${plural(count, "line")}`}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          setBusy(true);
          void onKeep(reason).finally(() => setBusy(false));
        }}
      >
        <Field label="Why" hint="Neither the ledger nor moves propose them again, until this is taken back.">
          {(props) => <TextInput {...props} value={reason} onChange={(event) => setReason(event.target.value)} />}
        </Field>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={busy || reason.trim() === ""}>
            Decide against
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { EXCLUSION_REASONS } from "@/core/account/records/basics";
import { plural } from "@/core/kit/format";
import type { KeptOut } from "@/server/exclusions/kept-out";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select, TextInput } from "@/ui/field";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** Another reason, or another day to look again, for entries that are kept out. */
export function EditKept({
  entries,
  version,
  onClose,
  onDone,
}: {
  entries: KeptOut[];
  version: number;
  onClose: () => void;
  onDone: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [first] = entries;
  const [reason, setReason] = useState(first!.reason);
  const [reviewOn, setReviewOn] = useState(first!.reviewOn ?? "");
  const [busy, setBusy] = useState(false);
  const keep = async () => {
    setBusy(true);
    try {
      const body = { action: "kept-out", keys: entries.map(({ key }) => key), reason, reviewOn: reviewOn || null };
      const { changes } = await apiSend<{ changes: number }>(apiPath(`account/edits?version=${version}`), body);
      toast.success(changes === 0 ? "That is how it is already." : `${plural(changes, "change")} in the basket`);
      await refresh();
      onDone();
      onClose();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title={`Reason and day of ${plural(entries.length, "entry", "entries")}`}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Field label="Why">
          {(props) => (
            <Select {...props} value={reason} onChange={(event) => setReason(event.target.value)}>
              {EXCLUSION_REASONS.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Look again on" hint="Empty means never.">
          {(props) => (
            <TextInput {...props} type="date" value={reviewOn} onChange={(event) => setReviewOn(event.target.value)} />
          )}
        </Field>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={busy}>
            Put into the basket
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

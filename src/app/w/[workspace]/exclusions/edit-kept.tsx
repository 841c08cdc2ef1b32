"use client";

import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { KeptOut } from "@/server/exclusions/kept-out";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { toastError } from "../../../_lib/api";
import { useRefresh } from "../../../_lib/workspace";
import { useChange } from "../use-edit";
import { ReasonFields, useReason } from "../reason-fields";

/** Another reason, or another day to look again, for entries that are kept out. */
export function EditKept({
  entries,
  onClose,
  onDone,
}: {
  entries: KeptOut[];
  onClose: () => void;
  onDone: () => void;
}) {
  const change = useChange(true);
  const refresh = useRefresh();
  const [first] = entries;
  const why = useReason(first!);
  const [busy, setBusy] = useState(false);
  const keep = async () => {
    setBusy(true);
    try {
      const body = { action: "kept-out", keys: entries.map(({ key }) => key), ...why.asked };
      const { changes } = await change("account/edits", body);
      toast.success(changes === 0 ? "That is how it is already." : `${plural(changes, "change")} in the basket`);
      onDone();
      onClose();
      await refresh();
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
        <ReasonFields {...why} />
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

"use client";

import { useState } from "react";
import { toast } from "sonner";
import type { StandingLine } from "@/server/moves/standing-orders";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";
import { OrderLookWords } from "./look";

/** Asks before moves may go out by themselves, with what would go out now. */
export function SwitchOnDialog({ order, onClose }: { order: StandingLine; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [busy, setBusy] = useState(false);
  const { id, definition, limits } = order;
  const submit = async () => {
    setBusy(true);
    try {
      await apiSend(apiPath(`standing-orders/${id}/on`), undefined);
      toast.success(`“${definition.name}” is on: its moves go out by themselves`);
      onClose();
    } catch (error) {
      toastError(error);
    }
    await refresh();
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title={`Switch “${definition.name}” on`}>
      <div className="space-y-3">
        <p className="text-sm num">It may act {limits}.</p>
        <OrderLookWords order={definition} />
        <p className="text-sm text-soft">
          From now on its moves are sent to the channel without anybody looking, unless something else waits in the
          basket or somebody has to approve it. Each dispatch can be taken back; “Stop” ends it at once.
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={busy} onClick={() => void submit()}>
            Let its moves go out
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

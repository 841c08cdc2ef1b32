"use client";

import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { GivenPlaces } from "@/server/channel/paste-places";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

/** Takes listings in that the channel and reports do not tell, as columns of a spreadsheet. */
export function PasteListings({ onClose }: { onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [text, setText] = useState("");
  const [faults, setFaults] = useState<GivenPlaces["faults"]>([]);
  const [busy, setBusy] = useState(false);
  const take = async () => {
    setBusy(true);
    try {
      const done = await apiSend<GivenPlaces>(apiPath("listings"), { text });
      if (done.taken > 0) toast.success(`${plural(done.taken, "listing")} taken in`);
      await refresh();
      setFaults(done.faults);
      if (done.faults.length === 0) onClose();
      // What could not be read stays to be put right.
      else setText(done.faults.map(({ line }) => text.split(/\r?\n/)[line - 1] ?? "").join("\n"));
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title="Paste listings" wide>
      <div className="space-y-3">
        <Field label="Listing, title, category, price, rating, reviews" hint="Only the first column is needed.">
          {(props) => (
            <textarea
              {...props}
              rows={10}
              className="w-full rounded-md border border-line bg-surface p-2 font-mono text-xs"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        {faults.length > 0 && (
          <div role="alert" className="text-sm text-ember">
            <ul>
              {faults.map(({ line, message }) => (
                <li key={line}>
                  Line {line}: {message}
                </li>
              ))}
            </ul>
          </div>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={busy || text.trim() === ""} onClick={() => void take()}>
            Take them in
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

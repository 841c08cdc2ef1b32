"use client";

import { addDays, format } from "date-fns";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";

/** Asks when the basket shall go out. */
export function SendLater({ onClose, onSend }: { onClose: () => void; onSend: (at: number) => Promise<void> }) {
  const [text, setText] = useState(() => `${format(addDays(new Date(), 1), "yyyy-MM-dd")}T06:00`);
  const at = new Date(text).getTime();
  const [now] = useState(() => Date.now());
  const isFit = Number.isFinite(at) && at > now;
  return (
    <Dialog open onClose={onClose} title="Send later">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isFit) void onSend(at);
        }}
      >
        <Field label="When" hint="By the clock of this computer." {...(isFit ? {} : { error: "A moment to come." })}>
          {(props) => (
            <TextInput
              {...props}
              type="datetime-local"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        <p className="text-sm text-soft">
          What lies in the basket now is what goes out then, checked once more. What is decided meanwhile waits for the
          next time. It can be called off until it goes.
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={!isFit}>
            Set it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Says that a dispatch is set for later. */
export function Scheduled({ at, onCallOff }: { at: number; onCallOff: () => Promise<void> }) {
  return (
    <div role="status" className="flex items-center gap-3 rounded-lg border border-line bg-petrol-wash px-4 py-2">
      <span className="mr-auto num">
        A dispatch is set for <b>{format(at, "d MMM yyyy, HH:mm")}</b>. What is decided until then is no part of it.
      </span>
      <Button onClick={() => void onCallOff()}>Call it off</Button>
    </div>
  );
}

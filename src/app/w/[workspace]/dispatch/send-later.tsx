"use client";

import { TZDate } from "@date-fns/tz";
import { addDays, format } from "date-fns";
import { formatMoment } from "@/core/kit/format";
import { useWorkspace } from "../../../_lib/workspace";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { momentIn } from "../../../_lib/moments";

/** Asks when the basket shall go out. */
export function SendLater({ onClose, onSend }: { onClose: () => void; onSend: (at: number) => Promise<void> }) {
  const { timeZone } = useWorkspace();
  const [text, setText] = useState(() => `${format(addDays(TZDate.tz(timeZone), 1), "yyyy-MM-dd")}T06:00`);
  const at = momentIn(text, timeZone);
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
        <Field
          label="When"
          hint={`By the workspace’s clock (${timeZone}).`}
          {...(isFit ? {} : { error: "A moment to come." })}
        >
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
  const { timeZone } = useWorkspace();
  return (
    <div role="status" className="flex items-center gap-3 rounded-lg border border-line bg-petrol-wash px-4 py-2">
      <span className="mr-auto num">
        A dispatch is set for <b>{formatMoment(at, timeZone)}</b>. What is decided until then is no part of it.
      </span>
      <Button onClick={() => void onCallOff()}>Call it off</Button>
    </div>
  );
}

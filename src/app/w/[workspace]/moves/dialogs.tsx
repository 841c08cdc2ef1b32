"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import type { WhichMoves } from "@/server/moves/moves";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { DayInput } from "@/ui/day-input";
import { Field, TextInput } from "@/ui/field";
import { MovesLook } from "./look";
import { useAccept, useDecide } from "./use-moves";

interface DialogProps {
  which: WhichMoves;
  count: number;
  onClose: () => void;
  onDone: () => void;
}

/** Asks before moves are accepted, with what that changes in numbers. */
export function AcceptDialog({ which, count, onClose, onDone }: DialogProps) {
  const accept = useAccept();
  const [busy, setBusy] = useState(false);
  const submit = async () => {
    setBusy(true);
    if (await accept(which)) onDone();
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title={`Accept ${plural(count, "move")}`}>
      <div className="space-y-3">
        <MovesLook which={which} />
        <p className="text-sm text-soft">
          They go into the basket, each with its reason. Nothing reaches the channel before the basket is sent.
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={busy} onClick={() => void submit()}>
            Put into the basket
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

/** Dismisses moves for a reason, or puts them off till a day. */
export function DecideDialog({ which, count, onClose, onDone, how }: DialogProps & { how: "dismissed" | "snoozed" }) {
  const decide = useDecide();
  const [reason, setReason] = useState("");
  const [until, setUntil] = useState("");
  const isSnooze = how === "snoozed";
  const isFit = isSnooze ? until !== "" : reason.trim() !== "";
  return (
    <Dialog open onClose={onClose} title={`${isSnooze ? "Put off" : "Dismiss"} ${plural(count, "move")}`}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!isFit) return;
          void decide(which, how, { reason: reason.trim(), ...(isSnooze ? { until } : {}) }).then((done) => {
            if (done) onDone();
          });
        }}
      >
        {isSnooze && (
          <Field label="Show again on">
            {(props) => <DayInput {...props} value={until} onChange={(text) => setUntil(text)} />}
          </Field>
        )}
        <Field label={isSnooze ? "Why, if you like" : "Why"}>
          {(props) => (
            <TextInput
              {...props}
              autoFocus={!isSnooze}
              maxLength={300}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </Field>
        {!isSnooze && (
          <p className="text-sm text-soft">
            It shows again only when what it stands on has moved: half as many clicks more, or a proposed amount a
            quarter apart from this one.
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={!isFit}>
            {isSnooze ? "Put off" : "Dismiss"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

"use client";

import { useState } from "react";
import { BID_METHODS } from "@/core/bid-desk/bid-lines";
import { plural } from "@/core/kit/format";
import type { Edited } from "@/server/account/edits";
import type { EditLook } from "@/server/account/homes-between";
import type { WhichBids } from "@/server/bids/desk";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { DayInput } from "@/ui/day-input";
import { Field } from "@/ui/field";
import { sayDone } from "../../../_lib/undo";
import { apiSend, toastError, useAsk } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";
import { EditLookWords } from "../edit-effect";
import { useChange } from "../use-edit";

/** Asks before bids are set, with what that changes in numbers; a push asks for its last day. */
export function SetDialog({
  asked,
  count,
  onClose,
  onDone,
}: {
  asked: WhichBids;
  count: number;
  onClose: () => void;
  onDone: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange();
  const [until, setUntil] = useState("");
  const [busy, setBusy] = useState(false);
  const isPush = asked.filter.method === "push";
  const whole: WhichBids = isPush && until ? { ...asked, until } : asked;
  const isReady = !isPush || until !== "";
  const look = useAsk<EditLook>(apiPath("bids/look"), whole, { isLong: true, enabled: isReady });
  const submit = async () => {
    setBusy(true);
    try {
      const { changes, diff } = await change<Edited>("bids/set", whole);
      sayDone(`${plural(count, "bid")} set: ${plural(changes, "change")} in the basket`, () =>
        apiSend(apiPath("account/edits/take-back"), diff).then(refresh),
      );
      onDone();
    } catch (error) {
      toastError(error);
    }
    await refresh();
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title={`Set ${plural(count, "bid")}`}>
      <div className="space-y-3">
        <p className="text-sm text-soft">{BID_METHODS[asked.filter.method]}, within the house rules.</p>
        {isPush && (
          <Field label="Last day of the push" hint="The day after it, a move proposes to go back to what each bid was.">
            {(props) => <DayInput {...props} value={until} onChange={(text) => setUntil(text)} />}
          </Field>
        )}
        <div
          role="status"
          aria-label="What that changes"
          className="min-h-20 space-y-1 rounded-md bg-raised px-3 py-2 text-sm num"
        >
          {look.error ? (
            <p className="text-ember-strong">
              {look.error.failure.message} {look.error.failure.hint}
            </p>
          ) : look.data ? (
            <EditLookWords look={look.data} />
          ) : (
            <span className="text-soft">{isReady ? "Looking what that changes …" : "Choose its last day first."}</span>
          )}
        </div>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={busy || !isReady || !look.data} onClick={() => void submit()}>
            Put into the basket
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

"use client";

import type { ReactNode } from "react";
import { plural } from "@/core/kit/format";
import type { BasketView } from "@/server/dispatch/basket";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import type { DispatchLine } from "./history";

interface AskProps {
  title: string;
  /** What is done, as the button says it. */
  does: string;
  onDo: () => void;
  onClose: () => void;
  children: ReactNode;
}

/** Says in numbers what an act does before it is done. */
function AskFirst({ title, does, onDo, onClose, children }: AskProps) {
  return (
    <Dialog open onClose={onClose} title={title}>
      <div className="space-y-2 num">{children}</div>
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          look="ember"
          onClick={() => {
            onClose();
            onDo();
          }}
        >
          {does}
        </Button>
      </div>
    </Dialog>
  );
}

interface TakeBackProps {
  line: DispatchLine;
  /** Whether somebody approves what is sent here. */
  isApproved: boolean;
  onDo: () => void;
  onClose: () => void;
}

/** Before a whole dispatch is taken back. */
export function AskTakeBack({ line: { id, size, words }, isApproved, ...rest }: TakeBackProps) {
  const changes = plural(size, "change");
  return (
    <AskFirst title={`Take back dispatch ${id}?`} does={`Take ${changes} back`} {...rest}>
      <p>
        {changes} would be as before it. It had: {words.join(" ")}
      </p>
      <p className="text-soft">
        {isApproved
          ? "The way back goes into the basket, where somebody approves it before it is sent, like any other change."
          : "The way back is sent at once, as a dispatch of its own, which can be taken back in turn."}
      </p>
    </AskFirst>
  );
}

/** Causes that are listed before the basket is emptied. */
const MOST_REASONS = 5;

/** Before all that waits is taken out of the basket. */
export function AskEmpty({ basket, ...rest }: { basket: BasketView; onDo: () => void; onClose: () => void }) {
  const { total, sending, byCause } = basket;
  const changes = plural(total - sending, "change");
  return (
    <AskFirst title="Empty the basket?" does={`Take ${changes} out`} {...rest}>
      <p>
        {changes} would be gone, those of others too. Nothing of it was sent, so the channel stays as it is
        {sending > 0 && `; ${plural(sending, "change")} on their way stay`}.
      </p>
      <ul className="list-disc pl-5 text-soft">
        {byCause.slice(0, MOST_REASONS).map(({ cause, reason, changes: of }) => (
          <li key={cause}>
            {reason}: {plural(of, "change")}
          </li>
        ))}
        {byCause.length > MOST_REASONS && <li>and {plural(byCause.length - MOST_REASONS, "other cause")}</li>}
      </ul>
    </AskFirst>
  );
}

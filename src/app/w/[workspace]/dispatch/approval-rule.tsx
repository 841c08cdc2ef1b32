"use client";

import { format } from "date-fns";
import type { Approval } from "@/server/dispatch/approval";
import { Checkbox } from "@/ui/field";

/** The house rule that somebody approves the basket, and how it stands with this one. */
export function ApprovalRule({
  approval,
  isWaiting,
  onChange,
}: {
  approval: Approval;
  isWaiting: boolean;
  onChange: (isNeeded: boolean) => void;
}) {
  return (
    <div className="flex flex-wrap items-center gap-4">
      <Checkbox
        label="Somebody approves the basket before it is sent"
        checked={approval.isNeeded}
        onChange={(event) => onChange(event.target.checked)}
      />
      {approval.isNeeded && (
        <span role="status" className={isWaiting ? "text-sm font-semibold text-ember" : "text-sm text-soft"}>
          {isWaiting
            ? "This basket waits for approval."
            : approval.by !== null && approval.at !== null
              ? `Approved${approval.by ? ` by ${approval.by}` : ""} at ${format(approval.at, "d MMM HH:mm")}. A change of it voids that.`
              : ""}
        </span>
      )}
    </div>
  );
}

"use client";

import { formatMoment } from "@/core/kit/format";
import type { Approval } from "@/server/account/approval";
import { Checkbox } from "@/ui/field";
import { useWorkspace } from "../../../_lib/workspace";

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
  const { timeZone } = useWorkspace();
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
              ? `Approved${approval.by ? ` by ${approval.by}` : ""} at ${formatMoment(approval.at, timeZone)}. A change of it voids that.`
              : ""}
        </span>
      )}
    </div>
  );
}

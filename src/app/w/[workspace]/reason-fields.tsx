import { dayAt, formatDay } from "@/core/kit/days";
import { useWorkspace } from "../../_lib/workspace";
import { useState } from "react";
import { EXCLUSION_REASONS } from "@/core/account/records/basics";
import { DayInput } from "@/ui/day-input";
import { ChoiceSelect, Field } from "@/ui/field";

export type Reason = (typeof EXCLUSION_REASONS)[number];

/** Why something is kept out and when to look again, as a form has them. An empty day means never. */
export function useReason(first: { reason: Reason; reviewOn: string | null }) {
  const [reason, setReason] = useState<Reason>(first.reason);
  const [reviewOn, setReviewOn] = useState(first.reviewOn ?? "");
  return { reason, setReason, reviewOn, setReviewOn, asked: { reason, reviewOn: reviewOn || null } };
}

/** The day in so many days, by the workspace's clock. */
export function useDayFromNow(days: number): string {
  const { timeZone } = useWorkspace();
  const [day] = useState(() => formatDay(dayAt(Date.now(), timeZone) + days));
  return day;
}

/** What is usual: wasteful where nothing else is given, to be looked at again in so many days. */
export function useUsualReason(days: number, reason: Reason = "wasteful") {
  return useReason({ reason, reviewOn: useDayFromNow(days) });
}

export function ReasonFields({ reason, setReason, reviewOn, setReviewOn }: ReturnType<typeof useReason>) {
  return (
    <>
      <Field label="Why">
        {(props) => <ChoiceSelect {...props} value={reason} onChange={setReason} choices={EXCLUSION_REASONS} />}
      </Field>
      <Field label="Look again on" hint="Empty means never.">
        {(props) => <DayInput {...props} value={reviewOn} onChange={(text) => setReviewOn(text)} />}
      </Field>
    </>
  );
}

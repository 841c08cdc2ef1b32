import { dayAt, formatDay } from "@/core/kit/days";
import { useWorkspace } from "../../_lib/workspace";
import { useState } from "react";
import { EXCLUSION_REASONS, REVIEW_AFTER } from "@/core/account/records/basics";
import { DayInput } from "@/ui/day-input";
import { ChoiceSelect, Field } from "@/ui/field";

export type Reason = (typeof EXCLUSION_REASONS)[number];

/**
 * Why something is kept out and when to look again, as a form has them. An empty day means never. Another reason brings its own
 * day along, unless somebody typed one.
 */
export function useReason(first: { reason: Reason; reviewOn: string | null }) {
  const { timeZone } = useWorkspace();
  const [reason, choose] = useState<Reason>(first.reason);
  const [reviewOn, setDay] = useState(first.reviewOn ?? "");
  const [isTyped, setTyped] = useState(false);
  const setReason = (next: Reason) => {
    choose(next);
    const days = REVIEW_AFTER[next];
    if (!isTyped) setDay(days === null ? "" : formatDay(dayAt(Date.now(), timeZone) + days));
  };
  const setReviewOn = (day: string) => {
    setTyped(true);
    setDay(day);
  };
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

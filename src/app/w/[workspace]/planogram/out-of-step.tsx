"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import type { Refresh } from "@/server/catalogue/history";
import type { OutOfStep } from "@/server/planogram/in-step";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";
import { Renames } from "../catalogue/feed/renames";
import { stepWords } from "./step-words";

/** Planograms that the catalogue or shelves have moved away from, each with what would bring the account back in step. */
export function OutOfStepList() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const steps = useApi<OutOfStep[]>(apiPath("planograms/out-of-step"));
  const [open, setOpen] = useState<OutOfStep | null>(null);
  const [last] = useApi<Refresh[]>(open ? apiPath("refreshes") : null).data ?? [];
  const keep = async ({ key, name }: OutOfStep) => {
    try {
      const { changes } = await apiSend<{ changes: number }>(apiPath(`planograms/${key}/step`));
      toast.success(`In step with “${name}”: ${plural(changes, "change")} in the basket`);
      setOpen(null);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  if (!steps.data || steps.data.length === 0) return null;
  return (
    <>
      <ul aria-label="Out of step" className="space-y-1">
        {steps.data.map((step) => (
          <li
            key={step.key}
            className="flex items-center gap-3 rounded-md border border-line bg-surface px-3 py-1.5 text-sm"
          >
            <span className="flex-1 num">
              <b>{step.name}</b>: {stepWords(step)}
              {step.how === "apply" && step.homed + step.moved + step.homeless > step.most && (
                <span className="text-ember"> · more than the {formatCount(step.most)} that go by themselves</span>
              )}
            </span>
            <Button onClick={() => setOpen(step)}>Look at {plural(step.changes, "change")}</Button>
          </li>
        ))}
      </ul>
      {open && (
        <Dialog open wide onClose={() => setOpen(null)} title={`Back in step with ${open.name}`}>
          <p className="text-sm">
            {stepWords(open)}. Budgets stay as they are, and groups of items that are only sold out stay too.
          </p>
          {/* What only got another name is said first: its groups then keep their history. */}
          {last && !last.isFirst && <Renames id={last.id} />}
          <ul className="mt-2 max-h-[50vh] list-disc space-y-0.5 overflow-y-auto pl-5 text-sm" tabIndex={0}>
            {open.words.map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
          {open.words.length < open.changes && (
            <p className="mt-1 text-sm text-soft num">
              {plural(open.changes, "change")} in all; those of parts that only hold others together are not told.
            </p>
          )}
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={() => setOpen(null)}>Not now</Button>
            <Button look="ember" onClick={() => void keep(open)}>
              Put into the basket
            </Button>
          </div>
        </Dialog>
      )}
    </>
  );
}

"use client";

import { parseAsString, useQueryState } from "nuqs";
import { useState } from "react";
import type { Language } from "@/core/copy/languages";
import type { CopyPlan } from "@/core/copy/copy-plan";
import type { CopyPlanInfo } from "@/server/copy/plans";
import type { SplitField } from "@/server/planogram/planograms";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { apiGet, toastError, useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";
import { BeginCopy } from "./begin-copy";
import { CopyEditor } from "./editor";

/** Text ads and keywords written from the feed: one plan at a time, with all others to choose from. */
export default function CopyPage() {
  const apiPath = useApiPath();
  const [plan, setPlan] = useQueryState("plan", parseAsString);
  const plans = useApi<CopyPlanInfo[]>(apiPath("copy-plans"));
  const fields = useApi<SplitField[]>(apiPath("split-fields"));
  const [fresh, setFresh] = useState<CopyPlan | null>(null);
  const error = plans.error ?? fields.error;
  if (error || !plans.data || !fields.data) return <PageWaiting title="Copy" what="the copy plans" error={error} />;
  const begin = async (language: Language) => {
    try {
      const made = await apiGet<CopyPlan>(apiPath(`copy-plans/fresh?language=${language}`));
      setFresh(made);
      await setPlan(made.key);
    } catch (failure) {
      toastError(failure);
    }
  };
  const copyOf = (from: CopyPlan) => {
    let n = plans.data.length + 1;
    while (plans.data.some(({ key }) => key === `copy-${n}`)) n++;
    setFresh({ ...structuredClone(from), key: `copy-${n}`, name: `${from.name}, copy`.slice(0, 80) });
    void setPlan(`copy-${n}`);
  };
  const found = plans.data.find(({ key }) => key === plan) ?? null;
  const shown = found?.definition ?? (fresh && fresh.key === plan ? fresh : (plans.data[0]?.definition ?? null));
  if (!shown)
    return (
      <>
        <PageHead title="Copy" facts="Nothing is written yet." />
        <EmptyNote
          title="Text ads and keywords from the feed"
          action={<BeginCopy onBegin={(language) => void begin(language)} />}
        >
          A copy plan says which items get which ads and keywords. Lines are made of texts and fields, with shorter ones
          to fall back on; everything is proved before it goes out.
        </EmptyNote>
      </>
    );
  return (
    <CopyEditor
      key={shown.key}
      start={shown}
      saved={found ?? plans.data.find(({ key }) => key === shown.key) ?? null}
      plans={plans.data}
      splits={fields.data}
      onChoose={(key) => void setPlan(key)}
      onBegin={(language) => void begin(language)}
      onCopy={copyOf}
    />
  );
}

"use client";

import { useRouter } from "next/navigation";
import { parseAsStringLiteral, useQueryState } from "nuqs";
import { Undo2 } from "lucide-react";
import { useMemo, useState } from "react";
import { toast } from "sonner";
import { copyPlanSchema, type CopyPlan } from "@/core/copy/copy-plan";
import type { Language } from "@/core/copy/languages";
import { COPY_FIELDS } from "@/core/copy/values";
import { sameValue } from "@/core/kit/diff";
import { formatCount, plural } from "@/core/kit/format";
import type { CopyPlanInfo } from "@/server/copy/plans";
import type { CopyProof } from "@/server/copy/proof";
import type { SplitField } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { ErrorNote } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import type { Choice } from "@/ui/search-select";
import { useKeys } from "@/ui/use-keys";
import { useSettled } from "@/ui/use-settled";
import { apiDelete, apiSend, jobEnded, toastError, toastMeanwhile, useAsk } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { useFields } from "../catalogue/use-feeds";
import { fieldChoices } from "../catalogue/where-builder";
import { tableShelves, useShelfSets } from "../shelves/use-shelf-fields";
import { AdsPart } from "./ads-part";
import { GroupsPart } from "./groups-part";
import { KeywordsPart } from "./keywords-part";
import { ProofPart } from "./proof-part";
import { useDraft } from "./use-draft";
import { BeginCopy } from "./begin-copy";
import { PartsBar } from "./parts-bar";
import { PARTS, type CopyPart } from "./words";

const KEYS = Object.keys(PARTS) as CopyPart[];

/** One copy plan: its ads, keywords and ad groups, what they come to, and the way into the basket. */
export function CopyEditor({
  start,
  saved,
  plans,
  splits,
  onChoose,
  onBegin,
  onCopy,
}: {
  start: CopyPlan;
  /** The plan as it is kept; null for a new one. */
  saved: CopyPlanInfo | null;
  plans: CopyPlanInfo[];
  splits: SplitField[];
  onChoose: (key: string) => void;
  onBegin: (language: Language) => void;
  onCopy: (plan: CopyPlan) => void;
}) {
  const { slug } = useWorkspace();
  const router = useRouter();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [part] = useQueryState("part", parseAsStringLiteral(KEYS).withDefault("ads"));
  const { draft, set, takeBack, canTakeBack, forget } = useDraft(`${slug}.${start.key}`, start);
  const [busy, setBusy] = useState<"save" | "write" | null>(null);
  useOwnWindow("Written from the feed as it was last read");
  useKeys({ u: takeBack });
  const known = useFields();
  const sets = useShelfSets();
  const { fields, conditions } = useMemo(() => {
    const own = Object.entries(COPY_FIELDS).map(([value, label]): Choice => ({ value, label, group: "Worked out" }));
    const ofFeed = known
      .filter(({ name }) => name !== "image" && name !== "link")
      .map(({ name, label }): Choice => ({ value: name, label, group: "Fields" }));
    return {
      fields: [...own, ...ofFeed],
      conditions: [
        ...fieldChoices(known, true).filter(({ name }) => name !== "home"),
        ...tableShelves(sets.data ?? []),
      ],
    };
  }, [known, sets.data]);
  const labelOf = (field: string) => fields.find(({ value }) => value === field)?.label ?? field;
  const parsed = copyPlanSchema.safeParse(draft);
  const fault = parsed.success ? null : (parsed.error.issues[0]?.message ?? "Something is not right.");
  const settled = useSettled(draft, 400);
  const isFit = copyPlanSchema.safeParse(settled).success;
  const proof = useAsk<CopyProof>(
    apiPath("copy-plans/proof"),
    { plan: settled },
    { isLong: true, enabled: isFit, placeholderData: (before) => before },
  );
  const isChanged = !saved || !sameValue(saved.definition, draft);

  const save = async (since = saved ? `?since=${saved.version}` : "") => {
    await apiSend(apiPath(`copy-plans${since}`), draft);
    forget();
  };
  const keep = async (since?: string) => {
    setBusy("save");
    try {
      await save(since);
      await refresh();
      toast.success(`“${draft.name}” is kept.`);
    } catch (failure) {
      toastMeanwhile(failure, () => void keep(""));
    }
    setBusy(null);
  };
  const write = async (since?: string) => {
    setBusy("write");
    try {
      if (isChanged) await save(since);
      const { job } = await apiSend<{ job: string }>(apiPath(`copy-plans/${draft.key}/apply`));
      if (!(await jobEnded(apiPath(`jobs/${job}`)))) return setBusy(null);
      await refresh();
      router.push(`/w/${slug}/dispatch`);
    } catch (failure) {
      toastMeanwhile(failure, () => void write(""));
      setBusy(null);
    }
  };
  const remove = async () => {
    try {
      const gone = saved ? await apiDelete<CopyPlan>(apiPath(`copy-plans/${draft.key}`)) : null;
      forget();
      await refresh();
      onChoose(plans.find(({ key }) => key !== draft.key)?.key ?? "");
      if (gone)
        toast(`“${gone.name}” is removed; what it made stays.`, {
          duration: 30_000,
          action: {
            label: "Take back",
            onClick: () =>
              void apiSend(apiPath("copy-plans"), gone)
                .then(refresh)
                .then(() => onChoose(gone.key))
                .catch(toastError),
          },
        });
    } catch (failure) {
      toastError(failure);
    }
  };
  const told = proof.data;
  const going = told?.going ?? 0;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead title="Copy" facts={told ? <Facts proof={told} /> : fault ? "" : "Writing …"}>
        <Button look="quiet" disabled={!canTakeBack} onClick={takeBack} title="Take back the last change (u)">
          <Undo2 aria-hidden className="size-4" /> Take back
        </Button>
        <Button disabled={!isChanged || fault !== null || busy !== null} onClick={() => void keep()}>
          {busy === "save" ? "Keeping …" : "Keep"}
        </Button>
        <Button look="ember" disabled={fault !== null || busy !== null || going === 0} onClick={() => void write()}>
          {busy === "write" ? "Writing …" : `Put ${told ? plural(going, "ad group") : ""} into the basket`}
        </Button>
      </PageHead>
      <PartsBar
        here={part}
        plan={draft.key}
        marks={{
          proof: told && told.causes.length > 0 && (
            <span className="ml-1.5 rounded bg-raised px-1.5 text-xs num">
              {formatCount(told.causes.reduce((sum, { texts }) => sum + texts, 0))}
            </span>
          ),
        }}
      >
        {plans.length > 1 || (plans.length === 1 && !saved) ? (
          <select
            aria-label="Copy plan"
            className="h-8 rounded-md border border-line bg-surface px-2 text-sm"
            value={draft.key}
            onChange={(event) => onChoose(event.target.value)}
          >
            {!saved && <option value={draft.key}>{draft.name} (new)</option>}
            {plans.map(({ key, definition }) => (
              <option key={key} value={key}>
                {definition.name}
              </option>
            ))}
          </select>
        ) : null}
        <Button look="quiet" onClick={() => onCopy(draft)}>
          Duplicate
        </Button>
        <Button look="quiet" onClick={() => void remove()}>
          Remove
        </Button>
        <BeginCopy look="plain" onBegin={onBegin} />
      </PartsBar>
      {fault && (
        <p role="alert" className="text-sm font-semibold text-ember">
          {fault}
        </p>
      )}
      {proof.error && <ErrorNote error={proof.error.failure} />}
      {told && told.gone.length > 0 && (
        <p role="status" className="text-sm text-ember">
          The catalogue no longer has {told.gone.map(labelOf).join(", ")}: lines that need it fall to their next rung.
        </p>
      )}
      {part === "ads" && (
        <AdsPart draft={draft} set={set} fields={fields} conditions={conditions} proof={told} labelOf={labelOf} />
      )}
      {part === "keywords" && <KeywordsPart draft={draft} set={set} fields={fields} proof={told} />}
      {part === "groups" && <GroupsPart draft={draft} set={set} splits={splits} conditions={conditions} proof={told} />}
      {part === "proof" && (
        <ProofPart draft={draft} set={set} proof={told} isChanged={isChanged} onKeep={() => keep()} labelOf={labelOf} />
      )}
    </div>
  );
}

/** What a plan comes to, in one line. */
function Facts({ proof: { adGroups, items, going, goingItems, keywords } }: { proof: CopyProof }) {
  return (
    <>
      <b>{formatCount(goingItems)}</b> of {plural(items, "item")} in {formatCount(going)} of{" "}
      {plural(adGroups, "ad group")} with ads and keywords · {plural(keywords.made, "keyword")}
    </>
  );
}

"use client";

import { useEffect, useMemo, useState } from "react";
import { useRouter } from "next/navigation";
import type { Failure } from "@/core/kit/outcome";
import { planogramSchema, type Planogram } from "@/core/planogram/planogram";
import { variantInWords, variantsOf } from "@/core/planogram/variants";
import type { PlanogramPreview } from "@/core/planogram/preview";
import { isHomeKind } from "@/core/account/homes";
import { PURPOSES } from "@/core/account/records/campaign";
import { plural } from "@/core/kit/format";
import type { AccountLine } from "@/server/planogram/workbench";
import type { SplitField } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { ChoiceSelect, Checkbox, Field, Select, TextInput } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { sameValue } from "@/core/kit/diff";
import { renderName, usualNames } from "@/core/planogram/names";
import { versionOf } from "@/core/kit/version-of";
import type { PlanProof } from "@/server/planogram/prove";
import { useSettled } from "@/ui/use-settled";
import { ApiError, apiSend, jobEnded, toastMeanwhile, useAsk } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { useFields } from "../catalogue/use-feeds";
import { fieldChoices, WhereBuilder } from "../catalogue/where-builder";
import { tableShelves, useShelfSets } from "../shelves/use-shelf-fields";
import { isReplaceable } from "./new-planogram";
import { BudgetSettings } from "./budget-settings";
import { withEach } from "./each";
import { KeepStep } from "./keep-step";
import { KindSettings } from "./kind-settings";
import { Ladder } from "./ladder";
import { MoneyInput } from "./money-input";
import { MoreSettings } from "./more-settings";
import { NamePatternEditor } from "./name-pattern";
import { Preview } from "./preview";
import { BIDDING_LABEL, BIDS_BY, SERVE_LABEL } from "./setting-words";
import { TemplatePicker } from "./template-picker";

/** Names that follow the lines of the ladder, and what is made apart, as long as nobody wrote others. */
function withUsualNames(old: Planogram, next: Planogram): Planogram {
  const usual = (one: Planogram) =>
    usualNames(one.campaignLine, one.adGroupLine, one.ladder, variantsOf(one).length > 1);
  const [was, is] = [usual(old), usual(next)];
  const follow = (part: "campaignName" | "adGroupName") =>
    next[part] === old[part] && sameValue(old[part], was[part]) ? is[part] : next[part];
  return { ...next, campaignName: follow("campaignName"), adGroupName: follow("adGroupName") };
}

function FilterCount({ draft, preview }: { draft: Planogram; preview: PlanogramPreview | null }) {
  const out = preview?.leftOutBy.find(({ rule }) => rule === "filter")?.items ?? 0;
  return (
    <span className="text-sm text-soft num">{draft.where ? `${plural(out, "item")} left out` : "all are planned"}</span>
  );
}

/** Builds a planogram: ladder and settings left, what it would make right, before anything exists. */
export function Builder({
  start,
  saved,
  fields,
  account,
  onClose,
}: {
  start: Planogram;
  /** The planogram as it is kept; null for a new one. */
  saved: Planogram | null;
  fields: SplitField[];
  account: AccountLine[];
  onClose: () => void;
}) {
  const { slug } = useWorkspace();
  const router = useRouter();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [draft, setDraft] = useState(start);
  useOwnWindow("Planned from the last 90 days");
  // As it was when the builder opened, whatever is read anew since.
  const [seen] = useState(() => versionOf(saved));
  const [preview, setPreview] = useState<PlanogramPreview | null>(null);
  const [error, setError] = useState<Failure | null>(null);
  const [applying, setApplying] = useState(false);
  const set = (change: Partial<Planogram>) => setDraft((old) => withUsualNames(old, { ...old, ...change }));
  const known = useFields();
  const sets = useShelfSets();
  // Whether an item has a home hangs on what is planned here.
  const choices = useMemo(
    () => [...fieldChoices(known, true).filter(({ name }) => name !== "home"), ...tableShelves(sets.data ?? [])],
    [known, sets.data],
  );
  const parsed = planogramSchema.safeParse(draft);
  const fault = parsed.success ? null : (parsed.error.issues[0]?.message ?? "Something is not right.");

  const settled = useSettled(draft, 400);
  const proof = useAsk<PlanProof>(apiPath("planograms/proof"), settled, {
    isLong: true,
    enabled: planogramSchema.safeParse(settled).success,
    placeholderData: (before) => before,
  });

  useEffect(() => {
    if (fault) return;
    let isStale = false;
    const timer = setTimeout(() => {
      apiSend<PlanogramPreview>(apiPath("planograms/preview"), draft)
        .then((made) => {
          if (isStale) return;
          setPreview(made);
          setError(null);
        })
        .catch((failure: unknown) => {
          if (!isStale && failure instanceof ApiError) setError(failure.failure);
        });
    }, 150);
    return () => {
      isStale = true;
      clearTimeout(timer);
    };
  }, [draft, fault, apiPath]);

  const apply = async (since = `?since=${seen}`) => {
    setApplying(true);
    try {
      await apiSend(apiPath(`planograms${since}`), draft);
      const { job } = await apiSend<{ job: string }>(apiPath(`planograms/${draft.key}/apply`));
      if (!(await jobEnded(apiPath(`jobs/${job}`)))) return setApplying(false);
      await refresh();
      router.push(`/w/${slug}/dispatch?applied=${job}`);
    } catch (failure) {
      toastMeanwhile(failure, () => void apply(""));
      setApplying(false);
    }
  };

  const takesPlace = isHomeKind(draft.kind ?? "feed");
  const running = account.filter((line) => takesPlace && isReplaceable(line) && !line.key.startsWith(`c:${draft.key}`));
  const firstCampaign = preview?.campaigns[0];
  const [product, groupProduct] = (preview?.example.products ?? []).map((name) => name || "the product");
  const ofCampaign = {
    product: product ?? "the product",
    levels: draft.ladder.map(
      ({ by }, i) =>
        preview?.example.levels[i] ?? fields.find((field) => field.by === by)?.label.toLowerCase() ?? "a value",
    ),
    purpose: draft.purpose,
    kind: draft.kind ?? "feed",
    firstDay: draft.settings?.startsOn ?? "",
    match: variantInWords(firstCampaign?.variant ?? null),
    planogram: draft.name,
    campaign: "",
    number: 1,
  };
  const ofAdGroup = {
    ...ofCampaign,
    product: groupProduct ?? "the product",
    campaign: renderName(draft.campaignName, ofCampaign),
  };
  return (
    <div className="space-y-4">
      <PageHead
        title="Plan the structure"
        facts={
          preview
            ? `${plural(preview.counts.campaigns, "campaign")} · ${plural(preview.counts.adGroups, "ad group")} · ${plural(preview.counts.productGroups, "product group")} · ${plural(preview.counts.items, "item")}`
            : "Working it out …"
        }
      >
        <Button onClick={onClose}>Back to the structure</Button>
        <Button
          look="ember"
          disabled={fault !== null || applying || !preview || preview.counts.items === 0}
          onClick={() => void apply()}
        >
          {applying ? "Putting it together …" : "Put into the basket"}
        </Button>
      </PageHead>
      <div className="grid grid-cols-[380px_minmax(0,1fr)] gap-4">
        <div className="space-y-4">
          {saved === null && (
            <Surface>
              <TemplatePicker draft={draft} fields={fields} onChange={(change) => setDraft({ ...draft, ...change })} />
            </Surface>
          )}
          <Surface title="Split ladder">
            <Ladder value={draft} fields={fields} onChange={set} />
          </Surface>
          <Surface title="Items" aside={<FilterCount draft={draft} preview={preview} />}>
            <WhereBuilder
              where={draft.where ?? { match: "all", of: [] }}
              fields={choices}
              onChange={(where) => set({ where: where.of.length === 0 ? undefined : where })}
            />
          </Surface>
          <Surface title="Settings">
            <KindSettings draft={draft} example={ofAdGroup} aims={preview?.aims ?? null} onChange={set} />
            <div className="grid grid-cols-2 gap-3">
              <BudgetSettings draft={draft} campaigns={preview?.counts.campaigns ?? 0} onChange={set} />
              <MoneyInput
                label="Starting bid"
                hint="A click."
                value={draft.startingBid}
                onChange={(startingBid) => set({ startingBid })}
              />
              <Field
                label="Bids"
                hint={
                  draft.bidBy === "worth"
                    ? "What a click is worth ÷ goal, within a third and three times the starting bid."
                    : "Every ad group at the starting bid."
                }
              >
                {(props) => (
                  <ChoiceSelect
                    {...props}
                    value={draft.bidBy ?? "same"}
                    onChange={(bidBy) => set({ bidBy })}
                    choices={BIDS_BY}
                  />
                )}
              </Field>
              <Field label="Bidding">
                {(props) => (
                  <ChoiceSelect
                    {...props}
                    value={draft.bidding}
                    onChange={(bidding) => set({ bidding })}
                    choices={BIDDING_LABEL}
                  />
                )}
              </Field>
              {(draft.bidding === "return" || draft.bidBy === "worth") && (
                <Field
                  label="Goal return"
                  hint={draft.bidding === "return" ? "The channel learns it." : "Bids are set by it."}
                >
                  {(props) => (
                    <TextInput
                      {...props}
                      inputMode="decimal"
                      defaultValue={draft.goal ?? ""}
                      onChange={(event) => set({ goal: Number(event.target.value.replace(",", ".")) || null })}
                    />
                  )}
                </Field>
              )}
              <Field label="Purpose">
                {(props) => (
                  <ChoiceSelect
                    {...props}
                    value={draft.purpose}
                    onChange={(purpose) => set({ purpose })}
                    choices={PURPOSES}
                  />
                )}
              </Field>
              <Field label="Serves" hint="Where items have several homes.">
                {(props) => (
                  <Select
                    {...props}
                    value={draft.serveOrder}
                    onChange={(event) => set({ serveOrder: Number(event.target.value) })}
                  >
                    {SERVE_LABEL.map((label, i) => (
                      <option key={label} value={i + 1}>
                        {label}
                      </option>
                    ))}
                  </Select>
                )}
              </Field>
            </div>
            <KeepStep draft={draft} onChange={set} />
            <MoreSettings draft={draft} campaigns={account} onChange={set} />
            <div className="mt-3 space-y-2">
              <Checkbox
                label="Leave sold-out items out"
                checked={draft.inStockOnly}
                onChange={(event) => set({ inStockOnly: event.target.checked })}
              />
              {running.map((line) => (
                <Checkbox
                  key={line.key}
                  label={
                    <>
                      Pause <b>{line.name}</b> when this is sent
                    </>
                  }
                  checked={draft.replaces.includes(line.key)}
                  onChange={(event) =>
                    set({
                      replaces: event.target.checked
                        ? [...draft.replaces, line.key]
                        : draft.replaces.filter((key) => key !== line.key),
                    })
                  }
                />
              ))}
            </div>
          </Surface>
          <Surface title="Names">
            <div className="space-y-3">
              <Field label="Planogram">
                {(props) => (
                  <TextInput {...props} value={draft.name} onChange={(event) => set({ name: event.target.value })} />
                )}
              </Field>
              <NamePatternEditor
                label="Campaigns"
                value={draft.campaignName}
                levels={draft.ladder.length}
                example={ofCampaign}
                onChange={(campaignName) => set({ campaignName })}
              />
              <NamePatternEditor
                label="Ad groups"
                value={draft.adGroupName}
                levels={draft.ladder.length}
                forAdGroup
                example={ofAdGroup}
                onChange={(adGroupName) => set({ adGroupName })}
              />
            </div>
          </Surface>
        </div>
        <div>
          {fault && <ErrorNote error={{ code: "planogram", message: fault }} />}
          {error && <ErrorNote error={error} />}
          {!error && proof.error instanceof ApiError && <ErrorNote error={proof.error.failure} />}
          {preview && (
            <Preview
              planogram={draft}
              preview={preview}
              proof={proof.data}
              isProofStale={proof.isFetching || settled !== draft}
              onBudget={(campaign, mills) => {
                const { [campaign]: _, ...rest } = draft.budgets ?? {};
                set({ budgets: mills === null ? rest : { ...rest, [campaign]: mills } });
              }}
              onEach={(keys, own) => set({ each: withEach(draft.each, keys, own) })}
              onRepair={set}
            />
          )}
        </div>
      </div>
    </div>
  );
}

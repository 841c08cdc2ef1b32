"use client";

import { X } from "lucide-react";
import { PURPOSES } from "@/core/account/records/campaign";
import type { CopyPlan } from "@/core/copy/copy-plan";
import { LANGUAGE_NAME } from "@/core/copy/languages";
import { usualNames } from "@/core/planogram/names";
import { sameValue } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { listEntries } from "@/core/kit/words";
import type { CopyProof } from "@/server/copy/proof";
import type { SplitField } from "@/server/planogram/planograms";
import { Checkbox, ChoiceSelect, Field, Select, TextInput } from "@/ui/field";
import { SettledInput } from "@/ui/settled-input";
import { Surface } from "@/ui/page";
import { SearchSelect } from "@/ui/search-select";
import { WhereBuilder, type FieldChoice } from "../catalogue/where-builder";
import { MoneyInput } from "../planogram/money-input";
import { NamePatternEditor } from "../planogram/name-pattern";
import type { SetPlan } from "./ads-part";
import { WordList } from "./keywords-part";

const SHARES = {
  evenly: "evenly",
  items: "by number of items",
  cost: "by past spend",
  revenue: "by past sales",
} as const;
const BIDS = { same: "the same for all", worth: "by what a click is worth" } as const;

/** Which items are written for, what forms campaigns and ad groups, what they may spend, and what no line may say. */
export function GroupsPart({
  draft,
  set,
  splits,
  conditions,
  proof,
}: {
  draft: CopyPlan;
  set: SetPlan;
  splits: SplitField[];
  conditions: FieldChoice[];
  proof: CopyProof | undefined;
}) {
  const change = (next: Partial<CopyPlan>) =>
    set((old) => {
      const made = { ...old, ...next };
      const namesOf = (plan: CopyPlan) => {
        const ladder = [...plan.campaignsBy, ...plan.groupsBy].map((by) => ({ by }));
        return usualNames(plan.campaignsBy.length, ladder.length, ladder);
      };
      // Names that nobody wrote follow what forms them.
      const [was, is] = [namesOf(old), namesOf(made)];
      if (sameValue(old.adGroupName, was.adGroupName)) made.adGroupName = is.adGroupName;
      if (sameValue(old.campaignName, was.campaignName)) made.campaignName = is.campaignName;
      return made;
    });
  const levels = draft.campaignsBy.length + draft.groupsBy.length;
  const example = {
    ...{ product: "the product", purpose: draft.purpose, kind: "text", firstDay: "", match: "", planogram: draft.name },
    ...{ campaign: "the campaign", number: 1 },
    levels: [...draft.campaignsBy, ...draft.groupsBy].map(
      (by) => splits.find((one) => one.by === by)?.label.toLowerCase() ?? by,
    ),
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pr-1" role="region" aria-label="Ad group settings" tabIndex={0}>
      <div className="grid grid-cols-2 gap-4">
        <div className="space-y-4">
          <Field label="Name of the plan">
            {(props) => (
              <TextInput {...props} value={draft.name} onChange={(event) => change({ name: event.target.value })} />
            )}
          </Field>
          <Surface
            title="Items"
            aside={proof && <span className="text-sm text-soft num">{plural(proof.items, "item")}</span>}
          >
            <WhereBuilder
              where={draft.where ?? { match: "all", of: [] }}
              fields={conditions}
              onChange={(where) =>
                set((old) => {
                  const { where: _, ...rest } = old;
                  return where.of.length === 0 ? rest : { ...rest, where };
                })
              }
            />
            <div className="mt-2">
              <Checkbox
                label="Only items that can be bought"
                checked={draft.inStockOnly}
                onChange={(event) => change({ inStockOnly: event.target.checked })}
              />
            </div>
            <Field
              label="Left out by hand"
              hint={draft.leftOut.length > 0 ? plural(draft.leftOut.length, "item") : "IDs, one a line or with commas."}
            >
              {(props) => (
                <textarea
                  {...props}
                  key={draft.leftOut.length}
                  rows={2}
                  className="w-full rounded-md border border-line bg-surface px-2 py-1.5 font-mono text-xs"
                  defaultValue={draft.leftOut.join("\n")}
                  onBlur={(event) => {
                    const leftOut = listEntries(event.target.value);
                    if (!sameValue(leftOut, draft.leftOut)) change({ leftOut });
                  }}
                />
              )}
            </Field>
          </Surface>
          <Surface title="Campaigns and ad groups">
            <div className="space-y-3">
              <Formed
                label="Campaigns by"
                most={3}
                value={draft.campaignsBy}
                splits={splits.filter(({ by }) => by !== "id")}
                onChange={(campaignsBy) => change({ campaignsBy })}
                none="one campaign for all"
              />
              <Formed
                label="Ad groups by"
                most={3}
                value={draft.groupsBy}
                splits={splits}
                onChange={(groupsBy) => groupsBy.length > 0 && change({ groupsBy })}
                none=""
              />
              <NamePatternEditor
                label="Name of campaigns"
                value={draft.campaignName}
                levels={draft.campaignsBy.length}
                example={example}
                onChange={(campaignName) => change({ campaignName })}
              />
              <NamePatternEditor
                label="Name of ad groups"
                value={draft.adGroupName}
                levels={levels}
                forAdGroup
                example={example}
                onChange={(adGroupName) => change({ adGroupName })}
              />
            </div>
          </Surface>
        </div>
        <div className="space-y-4">
          <Surface title="Money">
            <div className="grid grid-cols-2 gap-3">
              <MoneyInput
                label="Budget a day, in all"
                value={draft.totalBudget}
                onChange={(totalBudget) => change({ totalBudget })}
              />
              <Field label="Shared out">
                {(props) => (
                  <ChoiceSelect
                    {...props}
                    choices={SHARES}
                    value={draft.shareBy}
                    onChange={(shareBy) => change({ shareBy })}
                  />
                )}
              </Field>
              <MoneyInput
                label="Starting bid"
                hint="A click."
                value={draft.startingBid}
                onChange={(startingBid) => change({ startingBid })}
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
                  <ChoiceSelect {...props} choices={BIDS} value={draft.bidBy} onChange={(bidBy) => change({ bidBy })} />
                )}
              </Field>
              <Field label="Goal return" hint="Sales per unit of cost.">
                {(props) => (
                  <SettledInput
                    {...props}
                    inputMode="decimal"
                    value={String(draft.goal ?? "")}
                    onSettle={(text) => {
                      const goal = text === "" ? null : Number(text.replace(",", "."));
                      if (goal === draft.goal || (goal !== null && !(goal > 0))) return false;
                      change({ goal });
                    }}
                  />
                )}
              </Field>
              <Field label="Purpose">
                {(props) => (
                  <ChoiceSelect
                    {...props}
                    choices={PURPOSES}
                    value={draft.purpose}
                    onChange={(purpose) => change({ purpose })}
                  />
                )}
              </Field>
              <Field label="Serve order" hint="1 serves first.">
                {(props) => (
                  <ChoiceSelect
                    {...props}
                    choices={["1", "2", "3", "4", "5", "6", "7", "8", "9"] as const}
                    value={String(draft.serveOrder) as "1"}
                    onChange={(order) => change({ serveOrder: Number(order) })}
                  />
                )}
              </Field>
            </div>
          </Surface>
          <Surface title="What lines are judged by">
            <Field label="Language">
              {(props) => (
                <ChoiceSelect
                  {...props}
                  choices={LANGUAGE_NAME}
                  value={draft.language}
                  onChange={(language) => change({ language })}
                />
              )}
            </Field>
            <WordList
              label="Words that no line may have"
              value={draft.banned}
              most={500}
              onChange={(banned) => change({ banned })}
            />
            <Field
              label="When a figure changes"
              hint={
                draft.keepUp
                  ? "After a reading, ads that say an old figure are written anew into the basket; where more change, they wait for you."
                  : "Running ads lists what says an old figure."
              }
            >
              {(props) => (
                <span className="flex items-center gap-2">
                  <Select
                    {...props}
                    value={draft.keepUp ? "self" : "me"}
                    onChange={(event) => change({ keepUp: event.target.value === "self" ? { most: 50 } : null })}
                  >
                    <option value="me">I write the ads anew</option>
                    <option value="self">written anew by themselves</option>
                  </Select>
                  {draft.keepUp && (
                    <SettledInput
                      aria-label="Ads at most"
                      className="w-20!"
                      inputMode="numeric"
                      value={String(draft.keepUp.most)}
                      onSettle={(text) => {
                        const most = Math.round(Number(text));
                        if (!(most > 0) || most === draft.keepUp?.most) return false;
                        change({ keepUp: { most } });
                      }}
                    />
                  )}
                </span>
              )}
            </Field>
            <Field label="The same ad on more ad groups than" hint="Then somebody has to look; empty is never.">
              {(props) => (
                <SettledInput
                  {...props}
                  inputMode="numeric"
                  className="w-24!"
                  value={String(draft.sameOnMost ?? "")}
                  onSettle={(text) => {
                    const most = text === "" ? null : Math.round(Number(text));
                    if (most === draft.sameOnMost || (most !== null && !(most > 0))) return false;
                    change({ sameOnMost: most });
                  }}
                />
              )}
            </Field>
          </Surface>
        </div>
      </div>
    </div>
  );
}

/** The fields by which something is formed, in order. */
function Formed({
  label,
  value,
  splits,
  most,
  none,
  onChange,
}: {
  label: string;
  value: string[];
  splits: SplitField[];
  most: number;
  none: string;
  onChange: (value: string[]) => void;
}) {
  const labelOf = (by: string) => splits.find((one) => one.by === by)?.label ?? by;
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <div className="flex flex-wrap items-center gap-1.5">
        {value.length === 0 && <span className="text-sm text-soft">{none}</span>}
        {value.map((by, at) => (
          <span
            key={by}
            className="flex items-center gap-1 rounded-md border border-line bg-raised px-2 py-0.5 text-sm"
          >
            {labelOf(by)}
            <button
              type="button"
              aria-label={`${label}: without ${labelOf(by)}`}
              className="rounded text-soft hover:text-ink"
              onClick={() => onChange(value.toSpliced(at, 1))}
            >
              <X aria-hidden className="size-3.5" />
            </button>
          </span>
        ))}
        {value.length < most && (
          <SearchSelect
            label={`${label}: another field`}
            className="w-44"
            value=""
            placeholder="another field"
            choices={splits
              .filter(({ by }) => !value.includes(by))
              .map(({ by, label: text, filled, total }) => ({
                value: by,
                label: filled < total ? `${text} (${Math.round((100 * filled) / total)} %)` : text,
              }))}
            onChange={(by) => onChange([...value, by])}
          />
        )}
      </div>
    </fieldset>
  );
}

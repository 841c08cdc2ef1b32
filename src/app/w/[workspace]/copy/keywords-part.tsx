"use client";

import { Plus, X } from "lucide-react";
import { MATCH_TYPES, type MatchType } from "@/core/channel/match-types";
import type { CopyPlan, KeywordDesign } from "@/core/copy/copy-plan";
import { BUYING } from "@/core/copy/languages";
import { formatCount } from "@/core/kit/format";
import { listEntries } from "@/core/kit/words";
import type { CopyGroupLine, CopyProof } from "@/server/copy/proof";
import { Button } from "@/ui/button";
import { Checkbox, ChoiceSelect, Field } from "@/ui/field";
import { SettledInput } from "@/ui/settled-input";
import { Surface } from "@/ui/page";
import type { Choice } from "@/ui/search-select";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";
import { PartsEditor } from "../parts/parts-editor";
import type { SetPlan } from "./ads-part";

const KEEPERS = {
  sales: "the one that sold most",
  items: "the one with most items",
  first: "the first in the plan",
} as const;

/** What keywords are made of, on the left; what ad groups get, and what was dropped and why, on the right. */
export function KeywordsPart({
  draft,
  set,
  fields,
  proof,
}: {
  draft: CopyPlan;
  set: SetPlan;
  fields: Choice[];
  proof: CopyProof | undefined;
}) {
  const { keywords } = draft;
  const change = (next: Partial<KeywordDesign>) => set((old) => ({ ...old, keywords: { ...old.keywords, ...next } }));
  const stepOf = (match: MatchType) => keywords.matches.find((one) => one.match === match)?.step;
  const setMatch = (match: MatchType, step: number | null) =>
    change({
      matches: MATCH_TYPES.flatMap((one) => {
        const is = one === match ? step : (stepOf(one) ?? null);
        return is === null ? [] : [{ match: one, step: is }];
      }),
    });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_430px] gap-4">
      <div className="min-h-0 space-y-3 overflow-y-auto pr-1" role="region" aria-label="Keyword settings" tabIndex={0}>
        <Surface title="From fields">
          <div className="space-y-2">
            {keywords.patterns.map((pattern, at) => (
              <PartsEditor
                key={at}
                label={`Keyword pattern ${at + 1}`}
                value={pattern}
                choices={fields}
                onChange={(next) =>
                  change({
                    patterns: next.length === 0 ? keywords.patterns.toSpliced(at, 1) : keywords.patterns.with(at, next),
                  })
                }
                onPasteLines={(lines) =>
                  change({ patterns: keywords.patterns.toSpliced(at, 1, ...lines).slice(0, 20) })
                }
              >
                <button
                  type="button"
                  aria-label={`Remove keyword pattern ${at + 1}`}
                  className="rounded p-1 text-soft hover:bg-raised"
                  onClick={() => change({ patterns: keywords.patterns.toSpliced(at, 1) })}
                >
                  <X aria-hidden className="size-4" />
                </button>
              </PartsEditor>
            ))}
            <Button
              look="quiet"
              disabled={keywords.patterns.length >= 20}
              onClick={() => change({ patterns: [...keywords.patterns, [{ kind: "field", field: "copy:kind" }]] })}
            >
              <Plus aria-hidden className="size-3.5" /> Another pattern
            </Button>
          </div>
        </Surface>
        <Surface title="From titles">
          <Checkbox
            label="Shorten titles word by word until people search for what is left"
            checked={keywords.fromTitles}
            onChange={(event) => change({ fromTitles: event.target.checked })}
          />
          {keywords.fromTitles && (
            <div className="mt-2 flex items-center gap-2 text-sm">
              <NumberBox
                label="Fewest words"
                value={keywords.titleWords.least}
                onChange={(least) => change({ titleWords: { ...keywords.titleWords, least } })}
              />
              to
              <NumberBox
                label="Most words"
                value={keywords.titleWords.most}
                onChange={(most) => change({ titleWords: { ...keywords.titleWords, most } })}
              />
              words; what tells least apart goes first, words of the category stay.
            </div>
          )}
        </Surface>
        <Surface title="Match and bids">
          <div className="flex flex-wrap gap-4">
            {MATCH_TYPES.map((match) => {
              const step = stepOf(match);
              return (
                <div key={match} className="flex items-center gap-2 text-sm">
                  <Checkbox
                    label={match}
                    checked={step !== undefined}
                    disabled={keywords.matches.length === 1 && step !== undefined}
                    onChange={(event) => setMatch(match, event.target.checked ? 0 : null)}
                  />
                  {step !== undefined && (
                    <>
                      <NumberBox
                        label={`Step on the bid of ${match} keywords, percent`}
                        value={Math.round(step * 100)}
                        onChange={(percent) => setMatch(match, Math.max(-0.9, Math.min(2, percent / 100)))}
                      />
                      % on the bid
                    </>
                  )}
                </div>
              );
            })}
          </div>
          <div className="mt-3 grid grid-cols-2 gap-3">
            <Field label="Keywords an ad group at most">
              {(props) => (
                <NumberBox
                  {...props}
                  label="Keywords an ad group at most"
                  value={keywords.most}
                  onChange={(most) => change({ most })}
                />
              )}
            </Field>
            <Field label="A keyword of several ad groups goes to">
              {(props) => (
                <ChoiceSelect
                  {...props}
                  choices={KEEPERS}
                  value={keywords.keeper}
                  onChange={(keeper) => change({ keeper })}
                />
              )}
            </Field>
          </div>
          <div className="mt-2">
            <Checkbox
              label="Keep each ad group out of what another has as an exact keyword"
              checked={keywords.apart}
              onChange={(event) => change({ apart: event.target.checked })}
            />
          </div>
        </Surface>
        <Surface title="Words">
          <WordList
            label="Words of people who mean to buy"
            hint={`Each keyword is also made with each of them, such as “${BUYING[draft.language].join("”, “")}”.`}
            value={keywords.buyWords}
            most={10}
            onChange={(buyWords) => change({ buyWords })}
          />
          <WordList
            label="Words that no keyword may have"
            value={keywords.never}
            most={500}
            onChange={(never) => change({ never })}
          />
        </Surface>
      </div>
      <Made plan={draft} proof={proof} />
    </div>
  );
}

function NumberBox({
  label,
  value,
  onChange,
  id,
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
  id?: string;
}) {
  return (
    <SettledInput
      {...(id ? { id } : { "aria-label": label })}
      className="w-16!"
      inputMode="numeric"
      value={String(value)}
      onSettle={(text) => {
        const number = Math.round(Number(text.replace(",", ".")));
        if (text === "" || !Number.isFinite(number) || number === value) return false;
        onChange(number);
      }}
    />
  );
}

/** A list of words, as people type or paste it. */
export function WordList({
  label,
  hint,
  value,
  most,
  onChange,
}: {
  label: string;
  hint?: string;
  value: string[];
  most: number;
  onChange: (value: string[]) => void;
}) {
  return (
    <Field label={label} hint={hint}>
      {(props) => (
        <textarea
          {...props}
          key={value.join("\n")}
          rows={2}
          placeholder="words, one a line or with commas"
          className="mb-1 w-full rounded-md border border-line bg-surface px-2 py-1.5 text-sm placeholder:text-soft"
          defaultValue={value.join(", ")}
          onBlur={(event) => {
            const next = listEntries(event.target.value).slice(0, most);
            if (next.join("\n") !== value.join("\n")) onChange(next);
          }}
        />
      )}
    </Field>
  );
}

/** The keywords of the first ad groups, with what was dropped over all. */
function Made({ plan, proof }: { plan: CopyPlan; proof: CopyProof | undefined }) {
  const apiPath = useApiPath();
  const settled = useSettled(plan, 400);
  const groups = useAsk<{ total: number; groups: CopyGroupLine[] }>(
    apiPath("copy-plans/groups"),
    { plan: settled, of: { what: "all" }, limit: 60 },
    { placeholderData: (before) => before },
  );
  return (
    <section aria-label="Keywords made" className="flex min-h-0 flex-col rounded-lg border border-line bg-surface">
      {proof && (
        <div className="border-b border-line px-3 py-2 text-sm num">
          <p>
            <b>{formatCount(proof.keywords.made)}</b> keywords for {formatCount(proof.keywords.adGroups)} ad groups,{" "}
            {formatCount(proof.keywords.negatives)} kept apart by negatives
            {proof.keywords.searches !== null &&
              `, ${formatCount(proof.keywords.searches)} searches a month as the channel tells`}
          </p>
          {proof.keywords.dropped.length > 0 && (
            <p className="text-xs text-soft">
              Dropped: {proof.keywords.dropped.map(({ why, count }) => `${formatCount(count)} ${why}`).join(" · ")}
            </p>
          )}
        </div>
      )}
      <div
        className="min-h-0 flex-1 overflow-y-auto px-3 py-2 text-sm"
        tabIndex={0}
        role="region"
        aria-label="Ad groups"
      >
        {groups.data?.groups.map((group) => (
          <div key={group.unit} className="border-b border-line/70 py-1.5">
            <p className="truncate text-xs text-soft" title={group.title}>
              {group.name || group.title}
            </p>
            <p>
              {group.keywords.length === 0 ? (
                <span className="text-soft">none of its own</span>
              ) : (
                group.keywords.join(" · ")
              )}
            </p>
          </div>
        ))}
      </div>
    </section>
  );
}

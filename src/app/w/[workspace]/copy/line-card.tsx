"use client";

import { ArrowDown, ArrowUp, Plus, Trash2 } from "lucide-react";
import type { LineDesign } from "@/core/copy/copy-plan";
import { formatCount } from "@/core/kit/format";
import type { ProofLine } from "@/server/copy/proof";
import { Checkbox } from "@/ui/field";
import type { Choice } from "@/ui/search-select";
import { PartsEditor } from "../parts/parts-editor";
import type { BehindFate } from "./groups-dialog";

/** One line of an ad: its rungs from what says most to what always fits, each with for how many ad groups it stands. */
export function LineCard({
  label,
  value,
  fields,
  figures,
  labelOf,
  onChange,
  onMove,
  onBehind,
}: {
  label: string;
  value: LineDesign;
  fields: Choice[];
  figures: ProofLine | undefined;
  labelOf: (field: string) => string;
  /** Null takes the line out. */
  onChange: (value: LineDesign | null) => void;
  onMove: (by: 1 | -1) => void;
  onBehind: (fate: BehindFate, words: string) => void;
}) {
  const { rungs } = value;
  const setRungs = (next: LineDesign["rungs"]) => onChange(next.length === 0 ? null : { ...value, rungs: next });
  const small = "rounded p-1 text-soft hover:bg-raised";
  return (
    <div role="group" aria-label={label} className="rounded-lg border border-line bg-surface px-3 py-2">
      {rungs.map((rung, at) => (
        <div key={at} className="flex items-start gap-2 py-0.5">
          <span aria-hidden className="mt-1.5 w-4 shrink-0 text-right font-mono text-xs text-soft">
            {at + 1}
          </span>
          <div className="min-w-0 flex-1">
            <PartsEditor
              label={`${label}, rung ${at + 1}`}
              value={rung}
              choices={fields}
              onChange={(next) => setRungs(next.length === 0 ? rungs.toSpliced(at, 1) : rungs.with(at, next))}
              onPasteLines={(lines) => setRungs(rungs.toSpliced(at, 1, ...lines).slice(0, 8))}
            >
              {rungs.length > 1 && (
                <button
                  type="button"
                  aria-label={`Remove rung ${at + 1} of ${label.toLowerCase()}`}
                  className={small}
                  onClick={() => setRungs(rungs.toSpliced(at, 1))}
                >
                  <Trash2 aria-hidden className="size-3.5" />
                </button>
              )}
            </PartsEditor>
          </div>
          {figures && (
            <button
              type="button"
              className="mt-1 w-14 shrink-0 text-right text-sm num hover:underline disabled:text-soft disabled:no-underline"
              aria-label={`${label}, rung ${at + 1}: ${formatCount(figures.rungs[at] ?? 0)} ad groups`}
              title="Ad groups for which the line stands on this rung"
              disabled={!figures.rungs[at]}
              onClick={() => onBehind(at + 1, `${label} on rung ${at + 1}`)}
            >
              {formatCount(figures.rungs[at] ?? 0)}
            </button>
          )}
        </div>
      ))}
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 pl-6 text-xs">
        <button
          type="button"
          className="flex items-center gap-1 text-petrol hover:underline disabled:opacity-50"
          disabled={rungs.length >= 8}
          onClick={() => setRungs([...rungs, [{ kind: "text", text: "" }]])}
        >
          <Plus aria-hidden className="size-3" /> rung
        </button>
        <Checkbox
          label="run on"
          title="Where no rung fits, the first whole one runs on into a line of its own"
          checked={value.runsOn}
          onChange={(event) => onChange({ ...value, runsOn: event.target.checked })}
        />
        <Checkbox
          label="cut at a word"
          title="Where still none fits, the last whole one is cut at a word"
          checked={value.cut}
          onChange={(event) => onChange({ ...value, cut: event.target.checked })}
        />
        <Checkbox
          label="always shown"
          title="Stands in every view; the others take turns"
          checked={value.always}
          onChange={(event) => onChange({ ...value, always: event.target.checked })}
        />
        <span className="ml-auto flex gap-0.5">
          <button
            type="button"
            aria-label={`Move ${label.toLowerCase()} up`}
            className={small}
            onClick={() => onMove(-1)}
          >
            <ArrowUp aria-hidden className="size-3.5" />
          </button>
          <button
            type="button"
            aria-label={`Move ${label.toLowerCase()} down`}
            className={small}
            onClick={() => onMove(1)}
          >
            <ArrowDown aria-hidden className="size-3.5" />
          </button>
          <button
            type="button"
            aria-label={`Remove ${label.toLowerCase()}`}
            className={small}
            onClick={() => onChange(null)}
          >
            <Trash2 aria-hidden className="size-3.5" />
          </button>
        </span>
      </div>
      {figures && <LineTold figures={figures} labelOf={labelOf} onBehind={onBehind} label={label} />}
    </div>
  );
}

/** For how many ad groups no rung serves, and why; each number opens them. */
function LineTold({
  figures: { ranOn, cut, gap, long, awkward, over, gaps },
  label,
  labelOf,
  onBehind,
}: {
  figures: ProofLine;
  label: string;
  labelOf: (field: string) => string;
  onBehind: (fate: BehindFate, words: string) => void;
}) {
  const [emptiest] = gaps;
  const told: { fate: BehindFate; count: number; words: string }[] = [
    { fate: "ran on", count: ranOn, words: "run on" },
    { fate: "cut", count: cut, words: "cut at a word" },
    {
      fate: "gap",
      count: gap,
      words: emptiest ? `without it: no ${labelOf(emptiest[0]).toLowerCase()}` : "without it",
    },
    { fate: "too long", count: long, words: `too long, by up to ${over}` },
    { fate: "awkward", count: awkward, words: "would read badly" },
  ];
  const shown = told.filter(({ count }) => count > 0);
  if (shown.length === 0) return null;
  return (
    <p className="mt-0.5 flex flex-wrap gap-x-3 pl-6 text-xs num">
      {shown.map(({ fate, count, words }) => (
        <button
          key={String(fate)}
          type="button"
          className={
            fate === "too long" || fate === "awkward" ? "text-ember hover:underline" : "text-soft hover:underline"
          }
          onClick={() => onBehind(fate, `${label}: ${words}`)}
        >
          {formatCount(count)} {words}
        </button>
      ))}
    </p>
  );
}

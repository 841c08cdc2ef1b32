"use client";

import { Plus } from "lucide-react";
import { useState } from "react";
import { LINE_LISTS, type AdDesign, type CopyPlan, type LineDesign, type LineList } from "@/core/copy/copy-plan";
import type { CopyProof } from "@/server/copy/proof";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Select, TextInput } from "@/ui/field";
import type { Choice } from "@/ui/search-select";
import { WhereBuilder, type FieldChoice } from "../catalogue/where-builder";
import { GroupsDialog, type Behind } from "./groups-dialog";
import { LineCard } from "./line-card";
import { Samples } from "./samples";
import { LIST_LABEL, ONE_LINE, takes } from "./words";

export type SetPlan = (change: (before: CopyPlan) => CopyPlan) => void;

/** The ads of a plan: lines with their rungs on the left, how they read on the oddest items on the right. */
export function AdsPart({
  draft,
  set,
  fields,
  conditions,
  proof,
  labelOf,
}: {
  draft: CopyPlan;
  set: SetPlan;
  fields: Choice[];
  conditions: FieldChoice[];
  proof: CopyProof | undefined;
  labelOf: (field: string) => string;
}) {
  const [chosen, setChosen] = useState(draft.ads[0]!.key);
  const [behind, setBehind] = useState<Behind | null>(null);
  const ad = draft.ads.find(({ key }) => key === chosen) ?? draft.ads[0]!;
  const change = (next: Partial<AdDesign>) =>
    set((old) => ({ ...old, ads: old.ads.map((one) => (one.key === ad.key ? { ...one, ...next } : one)) }));
  const setLines = (next: (lines: LineDesign[]) => LineDesign[]) =>
    set((old) => ({
      ...old,
      ads: old.ads.map((one) => (one.key === ad.key ? { ...one, lines: next(one.lines) } : one)),
    }));
  const freeKey = () => {
    let n = draft.ads.length + 1;
    while (draft.ads.some(({ key }) => key === `ad-${n}`)) n++;
    return n;
  };
  const duplicate = () => {
    const n = freeKey();
    const place = Math.min(10, Math.max(...draft.ads.map((one) => one.place)) + 1);
    set((old) => ({ ...old, ads: [...old.ads, { ...structuredClone(ad), key: `ad-${n}`, name: `Ad ${n}`, place }] }));
    setChosen(`ad-${n}`);
  };
  const remove = () => {
    set((old) => ({ ...old, ads: old.ads.filter(({ key }) => key !== ad.key) }));
    setChosen(draft.ads.find(({ key }) => key !== ad.key)!.key);
  };
  const figures = (at: number) => proof?.ofLines.find((one) => one.design === ad.key && one.at === at);
  const addLine = (list: LineList) =>
    setLines((lines) => {
      const fresh: LineDesign = {
        list,
        rungs: [[{ kind: "text", text: "" }]],
        runsOn: false,
        cut: false,
        always: false,
      };
      const last = lines.findLastIndex((line) => line.list === list);
      return lines.toSpliced(last < 0 ? lines.length : last + 1, 0, fresh);
    });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px] gap-4">
      <div className="min-h-0 space-y-3 overflow-y-auto pr-1" role="region" aria-label="Lines" tabIndex={0}>
        <div className="flex flex-wrap items-center gap-2">
          <div role="group" aria-label="Ads of the plan" className="flex flex-wrap gap-1">
            {draft.ads.map((one) => (
              <button
                key={one.key}
                type="button"
                aria-pressed={one.key === ad.key}
                onClick={() => setChosen(one.key)}
                className={cx(
                  "rounded-md border px-2.5 py-1 text-sm",
                  one.key === ad.key
                    ? "border-petrol bg-petrol-wash font-semibold"
                    : "border-line bg-surface hover:bg-raised",
                )}
              >
                {one.name} <span className="font-normal text-soft">place {one.place}</span>
              </button>
            ))}
          </div>
          <Button look="quiet" disabled={draft.ads.length >= 20} onClick={duplicate}>
            <Plus aria-hidden className="size-3.5" /> Duplicate to vary
          </Button>
          {draft.ads.length > 1 && (
            <Button look="quiet" onClick={remove}>
              Remove {ad.name}
            </Button>
          )}
        </div>
        <div className="rounded-lg border border-line bg-surface p-3">
          <div className="flex flex-wrap items-center gap-2 text-sm">
            <TextInput
              aria-label="Name of the ad"
              className="w-36!"
              value={ad.name}
              onChange={(event) => change({ name: event.target.value })}
            />
            <label className="flex items-center gap-1.5">
              Place
              <Select
                className="w-16!"
                value={ad.place}
                onChange={(event) => change({ place: Number(event.target.value) })}
              >
                {Array.from({ length: 10 }, (_, i) => (
                  <option key={i} value={i + 1}>
                    {i + 1}
                  </option>
                ))}
              </Select>
            </label>
            <span className="text-soft">
              Ads with one place stand in for each other, first that fits; each place is an ad of its own.
            </span>
          </div>
          <div className="mt-2">
            <WhereBuilder
              where={ad.when ?? { match: "all", of: [] }}
              fields={conditions}
              onChange={(when) =>
                set((old) => ({
                  ...old,
                  ads: old.ads.map((one) => {
                    if (one.key !== ad.key) return one;
                    const { when: _, ...rest } = one;
                    return when.of.length === 0 ? rest : { ...rest, when };
                  }),
                }))
              }
            />
          </div>
        </div>
        {LINE_LISTS.map((list) => (
          <fieldset key={list} className="space-y-2">
            <legend className="mb-1 text-sm font-semibold">
              {LIST_LABEL[list]} <span className="font-normal text-soft num">{takes(list)}</span>
            </legend>
            {ad.lines.map((line, at) =>
              line.list !== list ? null : (
                <LineCard
                  key={at}
                  label={`${ONE_LINE[list]} ${ad.lines.slice(0, at + 1).filter((one) => one.list === list).length}`}
                  value={line}
                  fields={fields}
                  figures={figures(at)}
                  labelOf={labelOf}
                  onChange={(next) =>
                    setLines((lines) => lines.flatMap((old, i) => (i !== at ? [old] : next === null ? [] : [next])))
                  }
                  onMove={(by) =>
                    setLines((lines) => {
                      const peers = lines.flatMap((one, i) => (one.list === list ? [i] : []));
                      const to = peers[peers.indexOf(at) + by];
                      if (to === undefined) return lines;
                      return lines.with(at, lines[to]!).with(to, lines[at]!);
                    })
                  }
                  onBehind={(fate, words) =>
                    setBehind({ of: { what: "line", design: ad.key, at, fate }, title: words })
                  }
                />
              ),
            )}
            <Button look="quiet" disabled={ad.lines.length >= 24} onClick={() => addLine(list)}>
              <Plus aria-hidden className="size-3.5" /> Add a {ONE_LINE[list].toLowerCase()}
            </Button>
          </fieldset>
        ))}
      </div>
      <Samples plan={draft} labelOf={labelOf} />
      {behind && <GroupsDialog plan={draft} behind={behind} onClose={() => setBehind(null)} />}
    </div>
  );
}

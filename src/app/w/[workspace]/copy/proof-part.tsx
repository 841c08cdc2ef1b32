"use client";

import { useState } from "react";
import { Download } from "lucide-react";
import Link from "next/link";
import { toast } from "sonner";
import type { CopyPlan } from "@/core/copy/copy-plan";
import type { Cause } from "@/core/copy/faults";
import { formatCount, formatMoment, plural } from "@/core/kit/format";
import type { CopyGroupLine, CopyProof, ProofCause } from "@/server/copy/proof";
import { Button } from "@/ui/button";
import { EmptyNote, Loading } from "@/ui/notes";
import { Pills } from "@/ui/pills";
import { apiBytes, apiSend, toastError } from "../../../_lib/api";
import { saveFile } from "../../../_lib/save-file";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";
import type { SetPlan } from "./ads-part";
import { GroupsDialog, type Behind } from "./groups-dialog";

/** Ad groups that are asked for at once. */
const AT_A_TIME = 1000;
const TYPE = { csv: "text/csv", xlsx: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet" };

/** What is held back and why, by cause: looked at once, let pass, left out or repaired for many at a time. */
export function ProofPart({
  draft,
  set,
  proof,
  isChanged,
  onKeep,
  labelOf,
}: {
  draft: CopyPlan;
  set: SetPlan;
  proof: CopyProof | undefined;
  isChanged: boolean;
  onKeep: () => Promise<void>;
  labelOf: (field: string) => string;
}) {
  const apiPath = useApiPath();
  const { slug } = useWorkspace();
  const refresh = useRefresh();
  const [chosen, setChosen] = useState<Cause | null>(null);
  const [behind, setBehind] = useState<Behind | null>(null);
  const [busy, setBusy] = useState(false);
  if (!proof) return <Loading what="the proof" />;
  const cause = proof.causes.find((one) => one.cause === chosen) ?? proof.causes[0];
  const letPass = async (of: ProofCause, texts?: string[]) => {
    setBusy(true);
    try {
      // What was let pass is kept with the plan, so the plan has to be kept first.
      if (isChanged) await onKeep();
      const body = { cause: of.cause, ...(texts ? { texts } : { seen: of.texts }) };
      const done = await apiSend<{ texts: string[] }>(apiPath(`copy-plans/${draft.key}/let-pass`), body);
      await refresh();
      toast.success(`${plural(done.texts.length, "text")} may go out.`, {
        duration: 30_000,
        action: {
          label: "Take back",
          onClick: () =>
            void apiSend(apiPath(`copy-plans/${draft.key}/let-pass`), {
              cause: of.cause,
              texts: done.texts,
              pass: false,
            })
              .then(refresh)
              .catch(toastError),
        },
      });
    } catch (failure) {
      toastError(failure);
    }
    setBusy(false);
  };
  const leaveOut = async (cause: ProofCause, text?: string) => {
    setBusy(true);
    try {
      const of = { what: "cause", cause: cause.cause, ...(text !== undefined && { text }) };
      const ids: string[] = [];
      for (let offset = 0, total = 1; offset < total; offset += AT_A_TIME) {
        const asked = { plan: draft, of, offset, limit: AT_A_TIME };
        const found = await apiSend<{ total: number; groups: CopyGroupLine[] }>(apiPath("copy-plans/groups"), asked);
        total = found.total;
        ids.push(...found.groups.flatMap((group) => group.ids));
      }
      set((old) => ({ ...old, leftOut: [...new Set([...old.leftOut, ...ids])] }));
      toast.success(`${plural(ids.length, "item")} left out of this plan. “Take back” brings them in again.`);
    } catch (failure) {
      toastError(failure);
    }
    setBusy(false);
  };
  const download = async (format: "csv" | "xlsx") => {
    try {
      const bytes = await apiBytes(apiPath(`copy-plans/warnings?format=${format}`), { plan: draft });
      saveFile(`${draft.key}-warnings.${format}`, bytes, TYPE[format]);
    } catch (failure) {
      toastError(failure);
    }
  };
  const { states } = proof;
  const shown: { label: string; count: number; of: Behind["of"] }[] = [
    { label: "whole", count: states.whole, of: { what: "state", state: "whole" } },
    { label: "whole, some lines wait", count: states.shorter, of: { what: "state", state: "shorter" } },
    { label: "held back", count: states.held, of: { what: "state", state: "held" } },
    { label: "without an ad", count: states.none, of: { what: "state", state: "none" } },
  ];
  const problems = proof.ofLines.filter(({ gap, long, awkward }) => gap + long + awkward > 0);
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-sm num">
        <span>Ad groups:</span>
        {shown.map(({ label, count, of }) => (
          <button
            key={label}
            type="button"
            className="hover:underline disabled:text-soft disabled:no-underline"
            disabled={count === 0}
            onClick={() => setBehind({ title: `Ad groups: ${label}`, of })}
          >
            <b>{formatCount(count)}</b> {label}
          </button>
        ))}
        {proof.without.length > 0 && (
          <span className="text-soft">
            not going out ({proof.without.map(({ why, adGroups }) => `${formatCount(adGroups)} ${why}`).join(", ")})
          </span>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-4">
        <LandingPages pages={proof.pages} items={proof.items} />
        <span className="ml-auto flex gap-1">
          {(["csv", "xlsx"] as const).map((format) => (
            <Button key={format} look="quiet" onClick={() => void download(format)}>
              <Download aria-hidden className="size-3.5" /> Warnings as {format.toUpperCase()}
            </Button>
          ))}
        </span>
      </div>
      {proof.causes.length === 0 ? (
        <EmptyNote title="Nothing is held back">
          No line shouts, has unusual signs, another language, a word that is not to be used or an amount that is not
          its item&apos;s.{proof.letPass > 0 && ` ${plural(proof.letPass, "text")} were let pass by somebody.`}
        </EmptyNote>
      ) : (
        <>
          <Pills
            label="What is held back"
            pills={proof.causes.map((one) => ({
              key: one.cause,
              label: one.label,
              count: one.texts,
              more: `on ${formatCount(one.adGroups)}`,
            }))}
            value={cause?.cause ?? null}
            onChange={setChosen}
          />
          {cause && (
            <div className="flex min-h-0 flex-1 flex-col rounded-lg border border-line bg-surface">
              <div className="flex flex-wrap items-center gap-2 border-b border-line px-3 py-2 text-sm">
                <Button disabled={busy} onClick={() => void letPass(cause)}>
                  Let all {formatCount(cause.texts)} pass
                </Button>
                <Button disabled={busy} onClick={() => void leaveOut(cause)}>
                  Leave {plural(cause.adGroups, "ad group")} out
                </Button>
                <Link href={`/w/${slug}/catalogue/fields`} className="text-petrol hover:underline">
                  Repair the field
                </Link>
                <span className="text-soft">
                  or add a rung that says it otherwise. What is held back does not go out.
                </span>
              </div>
              <div className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} role="region" aria-label="Texts held back">
                <table className="w-full text-sm">
                  <thead className="sticky top-0 bg-surface text-left text-xs text-soft">
                    <tr>
                      <th className="px-3 py-1.5 font-medium">Text</th>
                      <th className="px-3 py-1.5 font-medium">List</th>
                      <th className="px-3 py-1.5 text-right font-medium">Ad groups</th>
                      <th className="px-3 py-1.5 font-medium">Act</th>
                    </tr>
                  </thead>
                  <tbody>
                    {cause.shown.map(({ list, text, adGroups }) => (
                      <tr key={`${list} ${text}`} className="border-t border-line align-top">
                        <td className="px-3 py-1.5">{text}</td>
                        <td className="px-3 py-1.5 text-soft">{list === "address" ? "address" : list.slice(0, -1)}</td>
                        <td className="px-3 py-1.5 text-right num">
                          <button
                            type="button"
                            className="hover:underline"
                            onClick={() =>
                              setBehind({ title: `“${text}”`, of: { what: "cause", cause: cause.cause, text } })
                            }
                          >
                            {formatCount(adGroups)}
                          </button>
                        </td>
                        <td className="px-3 py-1.5 whitespace-nowrap">
                          <button
                            type="button"
                            disabled={busy}
                            className="text-petrol hover:underline"
                            aria-label={`let pass: “${text}”`}
                            onClick={() => void letPass(cause, [text])}
                          >
                            let pass
                          </button>
                          {" · "}
                          <button
                            type="button"
                            disabled={busy}
                            className="text-petrol hover:underline"
                            aria-label={`leave out: what says “${text}”`}
                            onClick={() => void leaveOut(cause, text)}
                          >
                            leave out
                          </button>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {cause.texts > cause.shown.length && (
                  <p className="px-3 py-2 text-xs text-soft">
                    {formatCount(cause.texts - cause.shown.length)} more texts; the file of warnings has them all.
                  </p>
                )}
              </div>
            </div>
          )}
        </>
      )}
      {problems.length > 0 && (
        <details className="rounded-lg border border-line bg-surface px-3 py-2 text-sm">
          <summary className="cursor-pointer">{plural(problems.length, "line")} that not every ad group gets</summary>
          <ul className="mt-1 max-h-40 overflow-y-auto text-xs num">
            {problems.map(({ design, at, list, gap, long, awkward, over, gaps }) => (
              <li key={`${design} ${at}`}>
                {draft.ads.find(({ key }) => key === design)?.name}, line {at + 1} (
                {list === "address" ? "address" : list.slice(0, -1)}):{" "}
                {[
                  gap > 0 && `${formatCount(gap)} without ${gaps[0] ? labelOf(gaps[0][0]).toLowerCase() : "a value"}`,
                  long > 0 && `${formatCount(long)} too long, by up to ${over}`,
                  awkward > 0 && `${formatCount(awkward)} would read badly`,
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </li>
            ))}
          </ul>
        </details>
      )}
      {behind && <GroupsDialog plan={draft} behind={behind} onClose={() => setBehind(null)} />}
    </div>
  );
}

/** What was found on the landing pages of the plan's items, and a look at more of them. */
function LandingPages({ pages: { checked, at, faults }, items }: { pages: CopyProof["pages"]; items: number }) {
  const apiPath = useApiPath();
  const { slug, timeZone } = useWorkspace();
  const [asked, setAsked] = useState(false);
  const check = async () => {
    setAsked(true);
    try {
      await apiSend(apiPath("link-checks"), { most: Math.min(items, 100_000) });
      toast.success(`The landing pages of ${plural(items, "item")} are looked at, those with most spend first.`);
    } catch (failure) {
      toastError(failure);
    }
    setAsked(false);
  };
  return (
    <p className="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm num">
      <span>
        Landing pages: {formatCount(checked)} of {plural(items, "item")} looked at
        {at !== null && `, last ${formatMoment(at, timeZone)}`}
      </span>
      {faults.map(({ label, items: count }) => (
        <Link key={label} href={`/w/${slug}/catalogue/faults`} className="text-ember hover:underline">
          {formatCount(count)} {label.toLowerCase()}
        </Link>
      ))}
      <button type="button" disabled={asked} className="text-petrol hover:underline" onClick={() => void check()}>
        Look at them now
      </button>
    </p>
  );
}

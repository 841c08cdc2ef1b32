"use client";

import { useState } from "react";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { CopyPlan, LineList } from "@/core/copy/copy-plan";
import { plural } from "@/core/kit/format";
import type { CopyLook, CopySample, LookAd } from "@/server/copy/look";
import { cx } from "@/ui/cx";
import { TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";
import { fateWords } from "./words";

const VIEWS = { wide: "Wide", narrow: "Narrow", all: "All lines" } as const;
type View = keyof typeof VIEWS;

/** How the ads read on several items at once, while somebody types. */
export function Samples({ plan, labelOf }: { plan: CopyPlan; labelOf: (field: string) => string }) {
  const apiPath = useApiPath();
  const [view, setView] = useState<View>("wide");
  const [find, setFind] = useState("");
  const [turn, setTurn] = useState(0);
  const settled = useSettled({ plan, find }, 60);
  const look = useAsk<CopyLook>(apiPath("copy-plans/look"), settled, { placeholderData: (before) => before });
  return (
    <section aria-label="How it reads" className="flex min-h-0 flex-col rounded-lg border border-line bg-surface">
      <div className="flex items-center gap-2 border-b border-line px-3 py-2">
        <div role="group" aria-label="View" className="flex gap-1">
          {(Object.keys(VIEWS) as View[]).map((key) => (
            <button
              key={key}
              type="button"
              aria-pressed={view === key}
              onClick={() => setView(key)}
              className={cx(
                "rounded px-2 py-0.5 text-sm",
                view === key ? "bg-petrol-wash font-semibold" : "text-soft hover:bg-raised",
              )}
            >
              {VIEWS[key]}
            </button>
          ))}
        </div>
        {view !== "all" && (
          <button
            type="button"
            className="text-sm text-petrol hover:underline"
            onClick={() => setTurn((old) => old + 1)}
          >
            Other lines
          </button>
        )}
        <TextInput
          aria-label="Find an item"
          className="ml-auto w-28!"
          placeholder="title or ID"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
      </div>
      <div className="min-h-0 flex-1 space-y-3 overflow-y-auto p-3" tabIndex={0} role="region" aria-label="Previews">
        {look.error && <ErrorNote error={look.error.failure} />}
        {!look.data && !look.error && <Loading what="the previews" />}
        {look.data?.samples.length === 0 && (
          <p className="text-sm text-soft">
            {look.data.adGroups === 0
              ? "No item is left to write for: see the conditions under Ad groups."
              : "No item of this plan is called so."}
          </p>
        )}
        {look.data?.samples.map((sample) => (
          <Sample key={sample.unit} sample={sample} view={view} turn={turn} labelOf={labelOf} />
        ))}
      </div>
    </section>
  );
}

function Sample({
  sample,
  view,
  turn,
  labelOf,
}: {
  sample: CopySample;
  view: View;
  turn: number;
  labelOf: (field: string) => string;
}) {
  return (
    <article className="text-sm">
      <p className="mb-1 flex items-baseline gap-2 text-xs text-soft">
        <span className="font-mono">{sample.id}</span>
        <span className="min-w-0 flex-1 truncate" title={sample.title}>
          {sample.title}
        </span>
        {sample.items > 1 && <span>{plural(sample.items, "item")}</span>}
        {sample.shown !== "another" && sample.shown !== "found" && (
          <span className="rounded bg-raised px-1.5 whitespace-nowrap text-ink">{sample.shown}</span>
        )}
      </p>
      {sample.ads.map((ad) => (
        <AdPreview key={ad.place} ad={ad} view={view} turn={turn} labelOf={labelOf} />
      ))}
    </article>
  );
}

/** The lines of a list that a view shows: those that always stand, then others by turns. */
function inView(ad: LookAd, list: Exclude<LineList, "address">, view: Exclude<View, "all">, turn: number) {
  const own = ad.out.filter((line) => line.list === list);
  const always = own.filter(({ always: stands }) => stands);
  const others = own.filter(({ always: stands }) => !stands);
  const shift = others.length === 0 ? 0 : turn % others.length;
  const most = CHANNEL_LIMITS.textAdShows[view][list];
  return [...always, ...others.slice(shift), ...others.slice(0, shift)].slice(0, most).map(({ text }) => text);
}

function AdPreview({
  ad,
  view,
  turn,
  labelOf,
}: {
  ad: LookAd;
  view: View;
  turn: number;
  labelOf: (field: string) => string;
}) {
  const address = ad.out.find(({ list }) => list === "address")?.text;
  const missing = ad.lines.filter(({ fate }) => fate === "gap" || fate === "too long" || fate === "awkward");
  return (
    <div className={cx("mb-1.5 rounded-md border border-line bg-paper/60 px-3 py-2", view === "narrow" && "max-w-60")}>
      {ad.out.length === 0 ? (
        <p className="text-ember">
          No ad: {ad.state === "held" ? "held back by the proof" : ad.why}
          {ad.lacks.length > 0 && ` (${ad.lacks.join(", ")})`}
        </p>
      ) : view === "all" ? (
        <ul>
          {ad.out.map(({ list, text }) => (
            <li key={`${list} ${text}`} className="flex gap-2">
              <span className="w-20 shrink-0 text-xs text-soft">
                {list === "address" ? "address" : list.slice(0, -1)}
              </span>
              <span className="min-w-0 flex-1">{text}</span>
            </li>
          ))}
        </ul>
      ) : (
        <>
          {inView(ad, "headlines", view, turn).map((text) => (
            <p key={text} className="leading-snug font-semibold">
              {text}
            </p>
          ))}
          {inView(ad, "descriptions", view, turn).map((text) => (
            <p key={text} className="mt-0.5 leading-snug">
              {text}
            </p>
          ))}
          {address && <p className="mt-1 font-mono text-xs text-soft">…/{address}</p>}
        </>
      )}
      {ad.held.map(({ text, cause }) => (
        <p key={`${cause} ${text}`} className="mt-1 text-xs text-ember">
          held back: “{text.length > 60 ? `${text.slice(0, 60)}…` : text}”
        </p>
      ))}
      {view === "all" &&
        missing.map(({ list, at, fate, over, gap, awkward }) => (
          <p key={at} className="mt-1 text-xs text-soft">
            without line {at + 1} ({list === "address" ? "address" : list.slice(0, -1)}):{" "}
            {fateWords(fate, over, gap, awkward, labelOf)}
          </p>
        ))}
    </div>
  );
}

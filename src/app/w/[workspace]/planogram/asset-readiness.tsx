"use client";

import { Check, CircleAlert } from "lucide-react";
import type { ReactNode } from "react";
import { formatCount, plural } from "@/core/kit/format";
import type { AssetLook } from "@/server/assets/asset-groups";
import { TextInput } from "@/ui/field";
import { Picture } from "@/ui/item-tag";

function Point({ isRight, children }: { isRight: boolean; children: ReactNode }) {
  const Icon = isRight ? Check : CircleAlert;
  return (
    <li className="flex items-start gap-2 text-sm">
      <Icon
        aria-hidden
        className={isRight ? "mt-0.5 size-4 shrink-0 text-petrol" : "mt-0.5 size-4 shrink-0 text-ember"}
      />
      <span>{children}</span>
    </li>
  );
}

/** Enough of a long text to know it by. */
const MOST_SHOWN = 60;

export function shortened(text: string): string {
  return text.length > MOST_SHOWN ? `${text.slice(0, MOST_SHOWN).trimEnd()} …` : text;
}

/** What the channel asks for and what stands in its way: a list, not a grade. */
export function ReadinessList({ look }: { look: AssetLook }) {
  const { counts, items, complete, thin, incompleteAt } = look.readiness;
  const [long, gap] = [
    look.readiness.lines.filter(({ long: count }) => count > 0).length,
    look.readiness.lines.filter(({ gap: count }) => count > 0).length,
  ];
  const missing = incompleteAt === null ? undefined : look.names[incompleteAt];
  return (
    <ul aria-label="Readiness" className="space-y-1">
      {counts.map(({ list, has, least, most, isRight }) => (
        <Point key={list} isRight={isRight}>
          {has < least
            ? `${plural(least - has, list.slice(0, -1))} more needed, or nothing is shown`
            : has > most
              ? `${formatCount(has - most)} ${list} too many for the channel`
              : `${plural(has, list.slice(0, -1))}`}
        </Point>
      ))}
      <Point isRight={long === 0}>
        {long === 0 ? "No line is too long" : `${plural(long, "line")} too long for some items, which are shown others`}
      </Point>
      <Point isRight={gap === 0}>
        {gap === 0 ? "No line leaves a gap" : `${plural(gap, "line")} with an empty field for some items`}
      </Point>
      <Point isRight={complete === items && items > 0 && thin === 0}>
        {items === 0 ? "No item is in this group" : `${formatCount(complete)} of ${plural(items, "item")} get an ad`}
        {missing && `; not ${missing.id}, ${shortened(missing.title)}`}
        {thin > 0 && `; ${formatCount(thin)} of them with fewer lines or pictures than the channel asks a group for`}
        {look.of > items && <span className="text-soft"> ({formatCount(look.of)} in all, looked at evenly)</span>}
      </Point>
    </ul>
  );
}

/** Which lines and pictures items would show. */
export function AdSamples({ look, find, onFind }: { look: AssetLook; find: string; onFind: (text: string) => void }) {
  return (
    <div className="space-y-2">
      <TextInput
        type="search"
        aria-label="Find an item"
        placeholder="Find an item"
        value={find}
        onChange={(event) => onFind(event.target.value)}
      />
      {look.samples.length === 0 && <p className="text-sm text-soft">No item of this group fits that.</p>}
      <ul aria-label="Ads by item" className="max-h-[46vh] space-y-2 overflow-y-auto" tabIndex={0}>
        {look.samples.map(({ id, title, ad }) => (
          <li key={id} className="rounded-md border border-line p-2">
            <div className="flex items-start gap-2">
              <Picture src={ad.pictures[0] ?? ""} className="size-14" />
              <div className="min-w-0 flex-1 text-sm">
                <p className="truncate font-semibold">{ad.headlines[0] ?? "no headline fits"}</p>
                <p className="line-clamp-2 text-soft">{ad.descriptions[0] ?? "no description fits"}</p>
                <p className="text-xs text-soft num">
                  {ad.headlines.length} · {ad.descriptions.length} · {ad.pictures.length} to choose from
                </p>
              </div>
            </div>
            <p className="mt-1 truncate border-t border-line pt-1 text-xs text-soft" title={title}>
              <span className="font-mono">{id}</span> {title}
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}

"use client";

import { clock } from "@/core/kit/clock";
import { servingDay } from "@/core/account/serve-hours";
import { plural } from "@/core/kit/format";
import type { ItemHome } from "@/server/across/catalogue/item-detail";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../../_lib/workspace";

const SHADES = ["bg-petrol", "bg-petrol/60", "bg-petrol/35", "bg-petrol/20"];

/** Which home serves an item through the day, by when their money usually runs out, and which one does now. */
export function ServeDay({ homes }: { homes: ItemHome[] }) {
  const { timeZone } = useWorkspace();
  if (homes.length === 0) return null;
  const now = Number(new Intl.DateTimeFormat("en", { hour: "numeric", hourCycle: "h23", timeZone }).format(new Date()));
  const day = servingDay(homes);
  const nameOf = (home: number) => homes[home]?.campaignName ?? "nobody";
  const current = day.find(({ from, to }) => now >= from && now < to)!;
  const next = day.find(({ from }) => from >= current.to);
  const dry = homes.filter(({ dryAt }) => dryAt !== null);
  return (
    <div className="mt-2">
      <div className="relative flex h-5 overflow-hidden rounded border border-line" aria-hidden>
        {day.map(({ from, to, home }) => (
          <span
            key={from}
            title={`${clock(from)} to ${clock(to)}: ${nameOf(home)}`}
            className={home < 0 ? "bg-ember/30" : cx(SHADES[Math.min(home, SHADES.length - 1)])}
            style={{ width: `${((to - from) / 24) * 100}%` }}
          />
        ))}
        <span className="absolute inset-y-0 w-0.5 bg-ink" style={{ left: `${(now / 24) * 100}%` }} />
      </div>
      <p className="mt-1 text-sm">
        Now, at {clock(now)}: <b>{nameOf(current.home)}</b>
        {next ? `, from about ${clock(next.from)} ${nameOf(next.home)}.` : " until midnight."}
        {dry.length > 0 && (
          <span className="text-soft">
            {" "}
            {dry[0]!.campaignName} ran dry on {dry[0]!.dryDays} of {plural(dry[0]!.days, "day")}, at about{" "}
            {clock(dry[0]!.dryAt!)}.
          </span>
        )}
      </p>
    </div>
  );
}

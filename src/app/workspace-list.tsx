import Link from "next/link";
import { formatCount, NO_VALUE, plural } from "@/core/kit/format";
import { formatMoneyShort } from "@/core/kit/money";
import type { Asks } from "@/server/across/asks";
import type { TillStrip } from "@/server/across/results/till";
import type { WorkspaceInfo } from "@/server/workspaces";

/** How a workspace stands: its figures of the last 30 days, and what asks for a decision. */
export interface Standing {
  till: TillStrip;
  asks: Asks;
}

/** What asks for a decision in a workspace, in a few words each. */
export function asksInWords({ till, asks }: Standing): string[] {
  const faulty = asks.faults.reduce((sum, { items }) => sum + items, 0);
  return [
    till.leaks > 0 ? plural(till.leaks, "leak") : "",
    till.withoutHome > 0 ? `${plural(till.withoutHome, "item")} without a home` : "",
    asks.runDry.length > 0 ? `${plural(asks.runDry.length, "campaign")} out of money` : "",
    faulty > 0 ? `${plural(faulty, "item")} with costly faults` : "",
    asks.pausesDue.length > 0 ? `${plural(asks.pausesDue.length, "pause")} to look at` : "",
    asks.exclusionsDue.all > 0 ? `${plural(asks.exclusionsDue.all, "exclusion")} to look at` : "",
    asks.placementsDue ? `${plural(asks.placementsDue.placements, "placement")} to look at` : "",
    asks.experimentsOver.length > 0 ? `${plural(asks.experimentsOver.length, "experiment")} to settle` : "",
    asks.alerts.length > 0 ? plural(asks.alerts.length, "alert") : "",
    till.basket > 0 ? `${plural(till.basket, "change")} in the basket` : "",
  ].filter(Boolean);
}

/** All workspaces with how they stand. */
export function WorkspaceList({
  workspaces,
  standing,
}: {
  workspaces: WorkspaceInfo[];
  standing: Record<string, Standing>;
}) {
  return (
    <section>
      <h1 className="font-display text-[26px] leading-tight font-semibold tracking-tight">Your workspaces</h1>
      <ul className="mt-3 divide-y divide-line rounded-lg border border-line bg-surface">
        {workspaces.map(({ slug, name, currency, goal }) => {
          const stands = standing[slug];
          const roas = stands?.till.roas ?? null;
          const asked = stands ? asksInWords(stands) : [];
          return (
            <li key={slug}>
              <Link href={`/w/${slug}`} className="block px-4 py-3 hover:bg-raised">
                <span className="flex items-baseline gap-4">
                  <b className="min-w-0 flex-1 truncate text-petrol">{name}</b>
                  <span className="text-sm text-soft num">
                    Return <b className="text-ink">{roas === null ? NO_VALUE : roas.toFixed(2)}</b> of {goal}
                    {roas !== null && roas < goal && <span className="text-ember"> · below goal</span>}
                  </span>
                  <span className="w-44 text-right text-sm text-soft num">
                    {stands?.till.lastDayCost == null ? (
                      currency
                    ) : (
                      <>
                        <b className="text-ink">{formatMoneyShort(stands.till.lastDayCost, currency)}</b> on the last
                        day
                      </>
                    )}
                  </span>
                </span>
                <span className="block text-sm text-soft num">
                  {stands && stands.till.items === 0
                    ? "No catalogue yet"
                    : stands
                      ? `${formatCount(stands.till.items)} items · ${asked.length > 0 ? asked.join(" · ") : "nothing asks for a decision"}`
                      : "Its figures are being read; they stand on its own page."}
                </span>
              </Link>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

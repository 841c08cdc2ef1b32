"use client";

import { formatMetric, plural } from "@/core/kit/format";
import { addSums, METRICS, noSums } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { AccountLine } from "@/server/planogram/workbench";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../../_lib/workspace";

/** Folders of campaigns with their totals; choosing one shows its campaigns alone. Nothing where nobody made any. */
export function Folders({
  campaigns,
  chosen,
  onChoose,
}: {
  campaigns: AccountLine[];
  chosen: string | null;
  onChoose: (folder: string | null) => void;
}) {
  const { currency } = useWorkspace();
  const byFolder = new Map<string, AccountLine[]>();
  for (const line of campaigns) {
    if (line.folder !== null) byFolder.set(line.folder, [...(byFolder.get(line.folder) ?? []), line]);
  }
  if (byFolder.size === 0) return null;
  const total = (lines: AccountLine[]) => {
    const sums = noSums();
    for (const line of lines) addSums(sums, line.sums);
    const budget = lines.reduce((sum, line) => sum + (line.status === "on" ? (line.dailyBudget ?? 0) : 0), 0);
    return `${formatMoney(budget, currency)} a day · spend ${formatMoney(sums.cost, currency)} · ad sales ${formatMoney(sums.revenue, currency)} · ROAS ${formatMetric("roas", METRICS.roas.of(sums), currency)}`;
  };
  const choice = (folder: string | null, name: string, lines: AccountLine[]) => (
    <button
      key={name}
      type="button"
      aria-pressed={chosen === folder}
      title={total(lines)}
      onClick={() => onChoose(folder)}
      className={cx(
        "rounded-md border px-2.5 py-1 text-left text-sm",
        chosen === folder ? "border-petrol bg-petrol-wash" : "border-line bg-surface hover:bg-raised",
      )}
    >
      <span className="font-semibold">{name}</span>{" "}
      <span className="text-soft">{plural(lines.length, "campaign")}</span>
    </button>
  );
  const shown = chosen === null ? campaigns : (byFolder.get(chosen) ?? []);
  return (
    <div role="group" aria-label="Folders" className="flex flex-wrap items-center gap-2">
      {choice(null, "All", campaigns)}
      {[...byFolder].sort(([a], [b]) => a.localeCompare(b)).map(([name, lines]) => choice(name, name, lines))}
      <span className="text-sm text-soft num" role="status">
        {total(shown)}
      </span>
    </div>
  );
}

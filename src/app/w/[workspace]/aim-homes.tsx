"use client";

import { plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { AimingPreview } from "@/server/targets/aim";
import { Checkbox } from "@/ui/field";
import { useWorkspace } from "../../_lib/workspace";

/** Which homes of ours show the chosen items already, whether they come first, and the way to go before them. */
export function AimHomes({
  homes,
  goesFirst,
  onFirst,
}: {
  homes: AimingPreview["homes"];
  goesFirst: boolean;
  /** Null where the place is there already and keeps its order. */
  onFirst: ((goesFirst: boolean) => void) | null;
}) {
  const { currency } = useWorkspace();
  if (homes.length === 0) return null;
  const before = homes.filter(({ isBefore }) => isBefore);
  const list = (of: typeof homes) =>
    of
      .slice(0, 3)
      .map(({ name, bid, items }) => `${name} (${plural(items, "item")}, up to ${formatMoney(bid, currency)})`)
      .join(", ") + (of.length > 3 ? ` and ${of.length - 3} more` : "");
  return (
    <div className="text-sm num">
      {before.length > 0 ? (
        <p className="text-ember">▾ Serve first, so this shows only when their money is gone: {list(before)}.</p>
      ) : (
        <p className="text-soft">Serves before {list(homes)}, which then go without these places.</p>
      )}
      {onFirst && (before.length > 0 || goesFirst) && (
        <Checkbox
          label="Serve before them: first in serve order"
          checked={goesFirst}
          onChange={({ target }) => onFirst(target.checked)}
        />
      )}
    </div>
  );
}

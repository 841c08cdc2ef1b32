"use client";

import { formatMoney } from "@/core/kit/money";
import type { ItemPlaces } from "@/server/across/catalogue/item-detail";
import { useWorkspace } from "../../../_lib/workspace";

/** Who serves an item, where else it is shown, and what keeps it out, in one state of the account. */
export function Places({ places: { homes, aimed, keptOut } }: { places: ItemPlaces }) {
  const { currency } = useWorkspace();
  const isOut = keptOut.some(({ campaign }) => campaign === null);
  return (
    <ul className="space-y-1">
      {homes.map((home, i) => (
        <li key={home.group} className="num">
          {i === 0 ? "Served first by " : "Then, when that budget is gone, by "}
          <b>{home.campaignName}</b>
          {home.adGroupName !== home.campaignName && ` · ${home.adGroupName}`} at {formatMoney(home.bid, currency)} a
          click
          {home.own && " (its own bid)"}
          {home.leak && <span className="font-semibold text-ember"> ▾ through an open remainder</span>}
        </li>
      ))}
      {aimed.map(({ campaign, name, kind }) => (
        <li key={campaign}>
          Also shown by <b>{name}</b> where its {kind === "discovery" ? "automatic reach" : `${kind} targets`} match
        </li>
      ))}
      {keptOut.map(({ campaign, name, reason }) => (
        <li key={campaign ?? ""}>
          {campaign === null ? (
            "Excluded from all ads"
          ) : (
            <>
              Excluded from <b>{name || "a campaign that is gone"}</b>
            </>
          )}
          : {reason}.
        </li>
      ))}
      {homes.length === 0 && !isOut && <li>No home: no group serves it.</li>}
    </ul>
  );
}

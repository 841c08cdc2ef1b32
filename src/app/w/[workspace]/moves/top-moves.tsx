"use client";

import Link from "next/link";
import { formatCount } from "@/core/kit/format";
import { formatMoneyRound } from "@/core/kit/money";
import type { MovesView } from "@/server/moves/moves";
import { buttonClasses } from "@/ui/button";
import { Surface } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { topMovesPath } from "./asks";

/** The moves with the most money at stake, on the page where a day begins. */
export function TopMoves() {
  const { slug, currency } = useWorkspace();
  const apiPath = useApiPath();
  const moves = useApi<MovesView>(apiPath(topMovesPath));
  const all = (
    <Link className={buttonClasses("plain")} href={`/w/${slug}/moves`}>
      {moves.data ? `All ${formatCount(moves.data.total)} moves` : "All moves"}
    </Link>
  );
  return (
    <Surface title="Moves with the most at stake" aside={all}>
      {moves.error && <p className="text-soft">{moves.error.message}</p>}
      {!moves.data && !moves.error && <p className="h-36 text-soft">Looking what could be moved …</p>}
      {moves.data?.lines.length === 0 && <p className="text-soft">Nothing to propose within the house rules.</p>}
      {moves.data && moves.data.lines.length > 0 && (
        <ul className="divide-y divide-line">
          {moves.data.lines.map(({ key, about, what, why, stake }) => (
            <li key={key} className="flex items-center gap-3 py-1.5 num">
              <span className="min-w-0 flex-1 truncate" title={why}>
                <b>{about}.</b> {what} <span className="text-soft">· {why}</span>
              </span>
              <span className="shrink-0 text-soft">{formatMoneyRound(stake, currency)} a month</span>
            </li>
          ))}
        </ul>
      )}
    </Surface>
  );
}

"use client";

import Link from "next/link";
import { formatMoneyRound } from "@/core/kit/money";
import { CHAPTERS, chapterOf, type ChapterKey } from "@/core/stocktake/chapters";
import { FAULTS, type Finding } from "@/core/stocktake/finding";
import { monthText } from "@/core/stocktake/html";
import type { Spelling } from "@/core/stocktake/phrase";
import type { MovesView } from "@/server/moves/moves";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { topMovesPath } from "../moves/asks";

/** Moves that are told. */
const FEW = 3;

/** What somebody does first who takes stock for the first time: the chapter that is worst, and the moves with the most money. */
export function WhereToBegin({
  worst,
  spelling,
  onChapter,
}: {
  /** The finding with the most money. */
  worst: Finding;
  spelling: Spelling;
  onChapter: (chapter: ChapterKey) => void;
}) {
  const { slug, currency } = useWorkspace();
  const apiPath = useApiPath();
  const moves = useApi<MovesView>(apiPath(topMovesPath));
  const month = monthText(worst, spelling);
  const chapter = chapterOf(worst.fault);
  const lines = moves.data?.lines.slice(0, FEW) ?? [];
  return (
    <section aria-label="Where to begin" className="rounded-lg border border-line bg-surface px-4 py-2">
      <h2 className="font-display text-lg font-semibold">Where to begin</h2>
      <ol className="mt-1 list-decimal space-y-1 pb-1 pl-5 num">
        <li>
          Read{" "}
          <button type="button" className="text-petrol underline" onClick={() => onChapter(chapter)}>
            {CHAPTERS[chapter].title}
          </button>
          : {FAULTS[worst.fault].toLowerCase()}
          {month && `, ${month.amount} ${month.of}`}.
        </li>
        {lines.map(({ key, about, what, stake }) => (
          <li key={key}>
            <b>{about}.</b> {what} <span className="text-soft">· {formatMoneyRound(stake, currency)} a month</span>
          </li>
        ))}
        {lines.length > 0 && (
          <li>
            Decide on these and others in{" "}
            <Link className="text-petrol underline" href={`/w/${slug}/moves`}>
              Moves
            </Link>
            ; nothing goes out before you send the basket.
          </li>
        )}
      </ol>
    </section>
  );
}

"use client";

import { formatCount, plural } from "@/core/kit/format";
import { formatChange } from "@/core/kit/money";
import type { ProposerRecord } from "@/server/moves/follow-up";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting, Surface } from "@/ui/page";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../../_lib/workspace";
import { MovesTabs } from "../tabs";

/** What accepted moves brought after they were sent, against what was expected of them. */
export default function RecordPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("Up to 28 days on both sides");
  const record = useApi<ProposerRecord[]>(apiPath("moves/record"));
  if (record.error || !record.data)
    return (
      <PageWaiting title="Moves" what="what came of moves" error={record.error}>
        <MovesTabs />
      </PageWaiting>
    );
  const signed = (mills: number) => formatChange(mills, currency);
  return (
    <div className="space-y-3">
      <PageHead
        title="Moves"
        facts="What came in the days after against as many days before, late orders allowed for"
      />
      <MovesTabs />
      {record.data.length === 0 ? (
        <EmptyNote title="Nothing to look back on yet">
          Accept moves and send the basket; a week later it is told here what came of them.
        </EmptyNote>
      ) : (
        record.data.map(({ key, name, accepted, sent, moves, asExpected, expected, came }) => (
          <Surface key={key} title={name}>
            <p className="num">
              {moves === 0
                ? `Of ${plural(accepted, "accepted move")} ${formatCount(sent)} ${sent === 1 ? "was" : "were"} sent; none of them can be told yet. It takes seven days of results after sending, and items whose results tell.`
                : `Of ${plural(moves, "move")} ${formatCount(asExpected)} did what they said; in all ${signed(came.mean)} a month of ${signed(expected)} expected. By chance alone it could be ${signed(came.low)} to ${signed(came.high)}.`}
            </p>
            {moves > 0 && (
              <p className="text-sm text-soft num">
                {plural(accepted, "move")} accepted, {formatCount(sent)} sent. What else changed in those days, such as
                the season, is in it too.
              </p>
            )}
          </Surface>
        ))
      )}
    </div>
  );
}

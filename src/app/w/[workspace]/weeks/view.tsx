"use client";

import { Download } from "lucide-react";
import Link from "next/link";
import { parseAsInteger, useQueryState } from "nuqs";
import { ALERTS } from "@/core/alerts/alerts";
import { changeText, digestLines, foundWords, type Digest } from "@/core/alerts/digest";
import { formatDay } from "@/core/kit/days";
import { formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoneyRound } from "@/core/kit/money";
import { FAULTS } from "@/core/stocktake/finding";
import { monthText } from "@/core/stocktake/html";
import { plainSpelling } from "@/core/stocktake/phrase";
import type { WeekLine } from "@/server/alerts/week";
import { buttonClasses } from "@/ui/button";
import { Select } from "@/ui/field";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead, PageWaiting, Surface, WaitingRows } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { Phrase } from "../stocktake/phrase";
import { TodayTabs } from "../today-tabs";

/** How weeks went: figures beside the week before, what spoke up, what is wrong, and what to do. */
export default function WeeksPage() {
  const apiPath = useApiPath();
  const { slug } = useWorkspace();
  useOwnWindow("One week");
  const all = useApi<WeekLine[]>(apiPath("weeks"));
  const [asked, setAsked] = useQueryState("week", parseAsInteger);
  const shown = all.data?.find(({ id }) => id === asked) ?? all.data?.[0];
  const week = useApi<Digest>(shown ? apiPath(`weeks/${shown.id}`) : null);
  if (!all.data) return <PageWaiting title="Weeks" what="weeks" error={all.error} />;
  if (!shown) {
    return (
      <div className="space-y-3">
        <PageHead title="Weeks" facts="No week was told yet" />
        <TodayTabs />
        <EmptyNote title="No week was told yet">
          A week is told by itself as soon as there are results of all its days, Monday to Sunday: its figures beside
          the week before, what spoke up, what is wrong and which moves bring most.
        </EmptyNote>
      </div>
    );
  }
  return (
    <div className="space-y-3">
      <PageHead title={`Week of ${formatDay(shown.from)}`} facts={`${formatDay(shown.from)} to ${formatDay(shown.to)}`}>
        {all.data.length > 1 && (
          <span className="w-48">
            <Select
              aria-label="Which week"
              value={shown.id}
              onChange={(event) => void setAsked(Number(event.target.value))}
            >
              {all.data.map(({ id, from }) => (
                <option key={id} value={id}>
                  Week of {formatDay(from)}
                </option>
              ))}
            </Select>
          </span>
        )}
        {(["html", "json"] as const).map((format) => (
          <a
            key={format}
            className={buttonClasses("plain")}
            href={`/api/v1/${slug}/weeks/${shown.id}/file?format=${format}`}
            download
          >
            <Download aria-hidden className="size-3.5" /> {format.toUpperCase()}
          </a>
        ))}
      </PageHead>
      <TodayTabs />
      {week.error ? <ErrorNote error={week.error.failure} /> : week.data ? <Week week={week.data} /> : <WaitingRows />}
    </div>
  );
}

function Week({ week }: { week: Digest }) {
  const { slug } = useWorkspace();
  const { currency, goal, sent, alerts, moves, found } = week;
  const spelling = plainSpelling(currency);
  return (
    <>
      <Surface>
        <table className="w-full text-sm num" aria-label="The week beside the week before">
          <thead>
            <tr className="border-b border-line text-right text-soft">
              <th className="py-1 text-left font-normal">Figure</th>
              <th className="font-normal">The week</th>
              <th className="font-normal">The week before</th>
              <th className="font-normal">Change</th>
            </tr>
          </thead>
          <tbody>
            {digestLines(week).map(({ metric, now, then, change }) => (
              <tr key={metric} className="border-b border-line/60 text-right last:border-0">
                <th scope="row" className="py-1 text-left font-semibold">
                  {METRICS[metric].label}
                  {metric === "roas" && <span className="font-normal text-soft"> (the goal is {goal})</span>}
                </th>
                <td>{formatMetric(metric, now, currency)}</td>
                <td className="text-soft">{formatMetric(metric, then, currency)}</td>
                <td>{changeText(change)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-2 text-sm text-soft num">
          As reported when it was told; late orders still came in after.{" "}
          {sent.dispatches === 0
            ? "Nothing was sent in the week."
            : `${plural(sent.dispatches, "dispatch", "dispatches")} with ${plural(sent.changes, "change")} went out in it.`}
        </p>
      </Surface>
      <Surface title="What spoke up at its end">
        {alerts.length === 0 ? (
          <p className="text-soft">No alert.</p>
        ) : (
          <ul className="space-y-1 num">
            {alerts.map(({ kind, says }) => (
              <li key={kind}>
                <b>{ALERTS[kind].title}</b>: {says}
              </li>
            ))}
          </ul>
        )}
      </Surface>
      <Surface
        title="What is wrong"
        aside={
          <Link className={buttonClasses("plain")} href={`/w/${slug}/stocktake`}>
            Open Stocktake
          </Link>
        }
      >
        <p className="text-soft num">{foundWords(week)}</p>
        <ol className="mt-1 divide-y divide-line">
          {(found?.findings ?? []).map((finding) => {
            const month = monthText(finding, spelling);
            return (
              <li key={finding.key} className="grid grid-cols-[10rem_1fr] gap-x-4 py-1.5 num">
                <span>
                  {month ? (
                    <>
                      <b>{month.amount}</b> <span className="text-sm text-soft">{month.of}</span>
                    </>
                  ) : (
                    <span className="text-sm text-soft">not told in money</span>
                  )}
                </span>
                <span>
                  <b>{FAULTS[finding.fault]}.</b> <Phrase parts={finding.says} spelling={spelling} />
                </span>
              </li>
            );
          })}
        </ol>
      </Surface>
      <Surface
        title="Moves with the most at stake"
        aside={
          <Link className={buttonClasses("plain")} href={`/w/${slug}/moves`}>
            Open Moves
          </Link>
        }
      >
        {moves.length === 0 ? (
          <p className="text-soft">None was open.</p>
        ) : (
          <ul className="divide-y divide-line">
            {moves.map(({ key, what, about, stake }) => (
              <li key={key} className="flex gap-3 py-1.5 num">
                <span className="min-w-0 flex-1 truncate">
                  <b>{about}.</b> {what}
                </span>
                <span className="shrink-0 text-soft">{formatMoneyRound(stake, currency)} a month</span>
              </li>
            ))}
          </ul>
        )}
      </Surface>
    </>
  );
}

"use client";

import { Download } from "lucide-react";
import { Who } from "@/ui/who";
import { useState } from "react";
import { toast } from "sonner";
import { formatDay } from "@/core/kit/days";
import { formatCount, formatMoment, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { DispatchView } from "@/server/dispatch/dispatches";
import type { SpanResult } from "@/server/dispatch/dispatch-effect";
import { Button, buttonClasses } from "@/ui/button";
import { SidePanel } from "@/ui/dialog";
import { ErrorNote, Loading } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";

export interface DispatchLine {
  id: number;
  sentAt: number | null;
  fromDay: number | null;
  /** Who sent it. */
  who: string;
  size: number;
  words: string[];
  /** Changes found as they were meant when the channel was read back; null where nobody looked. */
  asMeant: number | null;
  channel: "market" | "files" | "http";
  takesBack: number | null;
  takenBackBy: number | null;
}

/** What was sent, newest first; each opens to its changes and the weeks around it, and can be taken back. */
export function History({
  lines,
  onTakeBack,
  busy,
}: {
  lines: DispatchLine[];
  onTakeBack: (line: DispatchLine) => void;
  busy: boolean;
}) {
  const { timeZone } = useWorkspace();
  const [open, setOpen] = useState<number | null>(null);
  if (lines.length === 0) return null;
  return (
    <Surface title="Sent">
      <ul className="divide-y divide-line">
        {lines.map((line) => (
          <li key={line.id} className="flex items-start gap-3 py-2">
            <button
              type="button"
              className="w-24 shrink-0 text-left font-semibold text-petrol hover:underline num"
              onClick={() => setOpen(line.id)}
            >
              Dispatch {line.id}
            </button>
            <span className="w-40 shrink-0 text-soft num">
              {line.sentAt ? formatMoment(line.sentAt, timeZone) : "–"}
            </span>
            <span className="flex-1 num">
              {line.who !== "" && (
                <>
                  <Who who={line.who} />:{" "}
                </>
              )}
              {line.words.join(" ")}
              {line.fromDay !== null && <span className="text-soft"> In force from {formatDay(line.fromDay)}.</span>}
              <Arrival line={line} />
              {line.takesBack !== null && <span className="text-soft"> Takes back dispatch {line.takesBack}.</span>}
            </span>
            {line.takenBackBy !== null ? (
              <span className="text-soft">taken back by {line.takenBackBy}</span>
            ) : (
              <Button disabled={busy} onClick={() => onTakeBack(line)}>
                Take back
              </Button>
            )}
          </li>
        ))}
      </ul>
      <SidePanel
        open={open !== null}
        onClose={() => setOpen(null)}
        title={<span className="font-display text-lg font-semibold">Dispatch {open}</span>}
      >
        {open !== null && <DispatchDetail id={open} />}
      </SidePanel>
    </Surface>
  );
}

/** Whether what arrived is what was meant. */
function Arrival({ line: { asMeant, size, channel } }: { line: DispatchLine }) {
  if (asMeant === null) {
    return channel === "files" ? <span className="text-soft"> Given out as a file, not read back yet.</span> : null;
  }
  if (asMeant === size) return <span className="text-soft"> Arrived as meant.</span>;
  return (
    <span className="font-semibold text-ember">
      {" "}
      {plural(size - asMeant, "change")} did not arrive as meant; send again.
    </span>
  );
}

function DispatchDetail({ id }: { id: number }) {
  const { timeZone, slug } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const found = useApi<DispatchView>(apiPath(`dispatches/${id}`));
  if (found.error) return <ErrorNote error={found.error.failure} />;
  if (!found.data) return <Loading what="the dispatch" />;
  const { effect, changes, size, around, answers, channel } = found.data;
  const takeBack = async (key: string) => {
    try {
      await apiSend(apiPath(`dispatches/${id}/take-back-changes`), { keys: [key] });
      toast.success("Its inverse lies in the basket, to be sent.");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <div className="space-y-5 text-sm">
      {size > 0 && (
        <a
          className={buttonClasses(channel === "files" ? "ember" : "plain")}
          href={`/api/v1/${slug}/dispatches/${id}/file`}
          download
        >
          <Download aria-hidden className="size-3.5" /> Its changes as a file
        </a>
      )}
      {answers.length > 0 && (
        <section>
          <h3 className="mb-1 font-semibold">Not taken as it was meant</h3>
          <ul className="divide-y divide-line">
            {answers.map(({ key, state, text, reason }) => (
              <li key={key} className="py-1.5 num">
                <b>{state === "refused" ? "refused" : "taken otherwise"}</b>: {text}
                {reason !== "" && <span className="block text-xs text-soft">{reason}</span>}
              </li>
            ))}
          </ul>
        </section>
      )}
      <section>
        <h3 className="mb-1 font-semibold">Before and after</h3>
        {effect === null ? (
          <p className="text-soft">Results do not reach over the days before and after it yet.</p>
        ) : (
          <>
            {effect.campaigns !== null && (
              <Spans label={`the ${plural(effect.campaigns, "campaign")} it touched`} of={effect.touched} />
            )}
            <Spans
              label={effect.campaigns === null ? "the whole account, all of which it touched" : "the whole account"}
              of={effect.all}
            />
            <p className="mt-1 text-xs text-soft num">
              {plural(effect.days, "day")} on each side, with the orders that are still to come. What the season or
              others did is in it too.
            </p>
          </>
        )}
      </section>
      {around.length > 0 && (
        <section>
          <h3 className="mb-1 font-semibold">What else happened then</h3>
          <ul className="space-y-0.5">
            {around.map(({ at, what, who }) => (
              <li key={`${at}/${what}`} className="num">
                <span className="text-soft">{formatMoment(at, timeZone)}</span> {what}
                {who !== "" && (
                  <span className="text-soft">
                    {" "}
                    · <Who who={who} />
                  </span>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      <section>
        <h3 className="mb-1 font-semibold">Changes</h3>
        <ul className="divide-y divide-line">
          {changes.map(({ key, text, reason }) => (
            <li key={key} className="flex items-start gap-2 py-1.5">
              <span className="min-w-0 flex-1 num">
                {text}
                {reason !== "" && <span className="block text-xs text-soft">{reason}</span>}
              </span>
              <Button look="quiet" aria-label={`Take back: ${text}`} onClick={() => void takeBack(key)}>
                Take back
              </Button>
            </li>
          ))}
        </ul>
        {size > changes.length && (
          <p className="mt-1 text-soft num">
            {formatCount(size - changes.length)} more only hold groups together, or are beyond the first thousand.
          </p>
        )}
      </section>
    </div>
  );
}

function Spans({ label, of: { before, after } }: { label: string; of: { before: SpanResult; after: SpanResult } }) {
  const { currency } = useWorkspace();
  const roas = ({ cost, revenue }: SpanResult) => (cost > 0 ? (revenue / cost).toFixed(2) : "–");
  return (
    <table className="mb-2 w-full num" aria-label={`Before and after, ${label}`}>
      <thead>
        <tr className="text-right text-xs text-soft">
          <th className="text-left font-normal">{label}</th>
          <th className="font-normal">Spend</th>
          <th className="font-normal">Orders</th>
          <th className="font-normal">Ad sales</th>
          <th className="font-normal">ROAS</th>
        </tr>
      </thead>
      <tbody>
        {[before, after].map((span) => (
          <tr key={span.from} className="border-t border-line/60 text-right">
            <td className="py-0.5 text-left">
              {span.from} to {span.to}
            </td>
            <td>{formatMoney(span.cost, currency)}</td>
            <td>{formatCount(Math.round(span.orders))}</td>
            <td>{formatMoney(span.revenue, currency)}</td>
            <td>{roas(span)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

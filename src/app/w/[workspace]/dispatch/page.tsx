"use client";

import { format } from "date-fns";
import { Download, TriangleAlert, X } from "lucide-react";
import Link from "next/link";
import { useQueryState } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { formatDay } from "@/core/kit/days";
import type { BasketView } from "@/server/dispatch/basket";
import type { JobView } from "@/server/jobs/jobs";
import { Button, buttonClasses } from "@/ui/button";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";

interface DispatchLine {
  id: number;
  sentAt: number | null;
  fromDay: number | null;
  /** Who sent it. */
  who: string;
  size: number;
  words: string[];
  takesBack: number | null;
  takenBackBy: number | null;
}

const PAGE = 200;

/** What was decided but not sent, in words and numbers; and what was sent, to be taken back. */
export default function DispatchPage() {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [limit, setLimit] = useState(PAGE);
  useOwnWindow("Effect from the last 30 days");
  const basket = useApi<BasketView>(apiPath(`basket?limit=${limit}`));
  const history = useApi<DispatchLine[]>(apiPath("dispatches"));
  const [applied] = useQueryState("applied");
  const plan = useApi<JobView>(applied === null ? null : apiPath(`jobs/${applied}`));
  const [busy, setBusy] = useState(false);
  if (basket.error) return <ErrorNote error={basket.error.failure} />;
  if (!basket.data) return <Loading what="the basket" />;
  const { total, checks, sending } = basket.data;
  const grave = checks.filter((check) => check.grave);
  const act = async (work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <div className="space-y-4">
      <PageHead
        title="Dispatch"
        facts={
          total === 0
            ? "The basket is empty"
            : `${plural(total, "change")} in the basket${sending > 0 ? `, ${formatCount(sending)} of them on their way` : ""}`
        }
      >
        <a className={buttonClasses("plain")} href={`/api/v1/${slug}/structure?format=csv`} download>
          <Download aria-hidden className="size-3.5" /> Structure as CSV
        </a>
        <a className={buttonClasses("plain")} href={`/api/v1/${slug}/structure?format=json`} download>
          <Download aria-hidden className="size-3.5" /> JSON
        </a>
        {total > 0 && (
          <Button disabled={busy} onClick={() => void act(() => apiSend(apiPath("basket/remove"), { keys: "all" }))}>
            Empty the basket
          </Button>
        )}
        <Button
          look="ember"
          disabled={busy || total === 0 || grave.length > 0}
          onClick={() =>
            void act(async () => {
              await apiSend(apiPath(`dispatches?version=${basket.data.version}`));
              toast.info("Sending to the test market …");
            })
          }
        >
          Send to the test market
        </Button>
      </PageHead>
      <KeptByHand result={plan.data?.result} />
      {total === 0 ? (
        <EmptyNote
          title="Nothing waits to be sent"
          action={
            <Link className={buttonClasses("plain")} href={`/w/${slug}/planogram`}>
              Go to the planogram
            </Link>
          }
        >
          What you change in the planogram or the catalogue is gathered here, to be read through before it is sent.
        </EmptyNote>
      ) : (
        <BasketReview
          basket={basket.data}
          onMore={() => setLimit(limit + PAGE * 5)}
          onRemove={(key) => act(() => apiSend(apiPath("basket/remove"), { keys: [key] }))}
        />
      )}
      <History
        lines={history.data ?? []}
        onTakeBack={(id) => act(() => apiSend(apiPath(`dispatches/${id}/take-back`)))}
        busy={busy}
      />
    </div>
  );
}

/** What people had set by hand and the plan just applied left alone. */
function KeptByHand({ result }: { result: unknown }) {
  const { kept = 0, keptByHand = [] } = (result ?? {}) as { kept?: number; keptByHand?: string[] };
  if (kept === 0) return null;
  return (
    <details className="rounded-lg border border-line bg-surface px-4 py-2">
      <summary className="cursor-pointer">
        The plan left {plural(kept, "setting")} as people had set {kept === 1 ? "it" : "them"} by hand.
      </summary>
      <ul className="mt-2 columns-2 gap-6 text-sm">
        {keptByHand.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      {kept > keptByHand.length && (
        <p className="mt-1 text-soft">The first {formatCount(keptByHand.length)} are shown.</p>
      )}
    </details>
  );
}

function BasketReview({
  basket,
  onMore,
  onRemove,
}: {
  basket: BasketView;
  onMore: () => void;
  onRemove: (key: string) => void;
}) {
  const { currency } = useWorkspace();
  const { budget, effect, homes, leaks, checks, changes, readable, summary } = basket;
  const money = (amount: number) => formatMoney(amount, currency);
  const signed = (amount: number) => `${amount < 0 ? "−" : "+"}${money(Math.abs(amount))}`;
  return (
    <>
      <div className="grid grid-cols-3 gap-4">
        <Surface title={`What changes · ${plural(basket.total, "record")}`}>
          <ul className="space-y-1">
            {summary.map((sentence) => (
              <li key={sentence} className="num">
                {sentence}
              </li>
            ))}
            {basket.total > readable && (
              <li className="text-soft num">
                {plural(basket.total - readable, "record")} more only hold the groups together or close what is not
                named.
              </li>
            )}
          </ul>
        </Surface>
        <Surface title="What it should do">
          {effect && (effect.stopped > 0 || effect.repriced > 0) ? (
            <p className="num">
              About <b>{signed(effect.cost)}</b> spend and <b>{signed(effect.revenue)}</b> ad sales a day:{" "}
              {plural(effect.stopped, "item")} with results stop, {formatCount(effect.repriced)} get another bid.
            </p>
          ) : (
            <p>No item stops or changes its bid.</p>
          )}
          {effect && effect.unknown > 0 && (
            <p className="mt-1 text-soft num">
              {plural(effect.unknown, "change")} (new structure, budgets, items that had no home){" "}
              {effect.unknown === 1 ? "has" : "have"} no results to go by and {effect.unknown === 1 ? "is" : "are"} not
              counted.
            </p>
          )}
          <p className="mt-1 text-xs text-soft">
            From the last 30 days; bids by a rule of thumb (10 % more bid, 6 % more clicks).
          </p>
          {budget.before !== budget.after && (
            <p className="mt-1 num">
              Budget a day: {money(budget.before)} → <b>{money(budget.after)}</b>
            </p>
          )}
        </Surface>
        <Surface title="Proof and checks">
          <p className="num">
            After sending: {formatCount(homes.one)} items with one home, {formatCount(homes.several)} with several,{" "}
            {formatCount(homes.none - homes.soldOut)} without
            {homes.soldOut > 0 && ` (and ${formatCount(homes.soldOut)} sold out)`}; {plural(leaks.length, "leak")}.
          </p>
          {checks.length === 0 ? (
            <p className="mt-1">All checks passed.</p>
          ) : (
            <ul className="mt-1 space-y-1">
              {checks.map((check) => (
                <li key={check.code} className="flex gap-1.5">
                  <TriangleAlert aria-hidden className="mt-0.5 size-4 shrink-0 text-ember" />
                  <span>
                    {check.message}{" "}
                    {check.grave ? <b>Must be put right first.</b> : <span className="text-soft">May be sent.</span>}
                  </span>
                </li>
              ))}
            </ul>
          )}
        </Surface>
      </div>
      <div className="rounded-lg border border-line bg-surface">
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-line text-left text-soft">
              <th className="px-3 py-2 font-normal">Change</th>
              <th className="w-64 px-3 font-normal">Why</th>
              <td className="w-10" />
            </tr>
          </thead>
          <tbody>
            {changes.map((change) => (
              <ChangeRow key={change.key} change={change} onRemove={() => onRemove(change.key)} />
            ))}
          </tbody>
        </table>
        {readable > changes.length && (
          <Button look="quiet" className="m-2" onClick={onMore}>
            Show more of {formatCount(readable)}
          </Button>
        )}
      </div>
    </>
  );
}

function ChangeRow({ change, onRemove }: { change: BasketView["changes"][number]; onRemove: () => void }) {
  return (
    <tr className="border-b border-line/60">
      <td className="px-3 py-1.5 num">
        {change.text}
        {change.item !== null && <span className="block text-soft">{change.item}</span>}
      </td>
      <td className="px-3 text-soft">
        {change.reason}
        {change.who !== "" && <span className="whitespace-nowrap"> · {change.who}</span>}
      </td>
      <td className="px-2 text-center">
        <button
          type="button"
          aria-label={`Take out: ${change.text}`}
          title="Take out of the basket"
          onClick={onRemove}
          className="rounded p-1 text-soft hover:bg-raised"
        >
          <X aria-hidden className="size-3.5" />
        </button>
      </td>
    </tr>
  );
}

function History({
  lines,
  onTakeBack,
  busy,
}: {
  lines: DispatchLine[];
  onTakeBack: (id: number) => void;
  busy: boolean;
}) {
  if (lines.length === 0) return null;
  return (
    <Surface title="Sent">
      <ul className="divide-y divide-line">
        {lines.map((line) => (
          <li key={line.id} className="flex items-start gap-3 py-2">
            <b className="w-24 shrink-0 num">Dispatch {line.id}</b>
            <span className="w-32 shrink-0 text-soft num">
              {line.sentAt ? format(line.sentAt, "d MMM HH:mm") : "–"}
            </span>
            <span className="flex-1 num">
              {line.who !== "" && `${line.who}: `}
              {line.words.join(" ")}
              {line.fromDay !== null && <span className="text-soft"> In force from {formatDay(line.fromDay)}.</span>}
              {line.takesBack !== null && <span className="text-soft"> Takes back dispatch {line.takesBack}.</span>}
            </span>
            {line.takenBackBy !== null ? (
              <span className="text-soft">taken back by {line.takenBackBy}</span>
            ) : (
              <Button disabled={busy} onClick={() => onTakeBack(line.id)}>
                Take back
              </Button>
            )}
          </li>
        ))}
      </ul>
    </Surface>
  );
}

"use client";

import { Download } from "lucide-react";
import Link from "next/link";
import { useQueryState } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import type { Approval } from "@/server/account/approval";
import type { BasketView } from "@/server/dispatch/basket";
import type { ChannelView } from "@/server/dispatch/channel-view";
import type { JobView } from "@/server/jobs/jobs";
import { Button, buttonClasses } from "@/ui/button";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { AskEmpty, AskTakeBack } from "./ask-first";
import { ApprovalRule } from "./approval-rule";
import { BasketReview } from "./basket-review";
import { DispatchTabs } from "./tabs";
import { History, type DispatchLine } from "./history";
import { OnItsWay } from "./on-its-way";
import { Scheduled, SendLater } from "./send-later";
import { useTakeOut } from "./use-take-out";

/** What was decided but not sent, in words and numbers; and what was sent, to be taken back. */
export default function DispatchPage() {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const takeOut = useTakeOut();
  useOwnWindow("Effect from the last 30 days");
  const basket = useApi<BasketView>(apiPath("basket?limit=1"));
  const history = useApi<DispatchLine[]>(apiPath("dispatches"));
  const [applied] = useQueryState("applied");
  const plan = useApi<JobView>(applied === null ? null : apiPath(`jobs/${applied}`));
  const approval = useApi<Approval>(apiPath("basket/approval"));
  const [busy, setBusy] = useState(false);
  const [isLater, setLater] = useState(false);
  const [isEmptying, setEmptying] = useState(false);
  const [takingBack, setTakingBack] = useState<DispatchLine | null>(null);
  const channel = useApi<ChannelView>(apiPath("channel"));
  const target = channel.data ? (channel.data.kind === "files" ? "a file" : channel.data.name) : "the channel";
  const scheduled = useApi<{ scheduled: { job: string; at: number } | null }>(apiPath("dispatches/scheduled"));
  if (basket.error || !basket.data)
    return (
      <PageWaiting title="Dispatch" what="the basket" error={basket.error}>
        <DispatchTabs />
      </PageWaiting>
    );
  const { total, checks, sending } = basket.data;
  const waitsForApproval = total > 0 && approval.data?.isNeeded === true && approval.data.by === null;
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
  // Past the basket only where nobody approves what is sent.
  const takeBack = (id: number) =>
    approval.data?.isNeeded
      ? apiSend(apiPath(`dispatches/${id}/take-back-changes`), { keys: "all" })
      : apiSend(apiPath(`dispatches/${id}/take-back`));
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
          <Button disabled={busy} onClick={() => setEmptying(true)}>
            Empty the basket
          </Button>
        )}
        {total > 0 && !scheduled.data?.scheduled && (
          <Button disabled={busy || grave.length > 0 || waitsForApproval} onClick={() => setLater(true)}>
            Send later
          </Button>
        )}
        {waitsForApproval && (
          <Button
            disabled={busy}
            onClick={() => void act(() => apiSend(apiPath(`basket/approve?version=${basket.data.version}`)))}
          >
            Approve
          </Button>
        )}
        <Button
          look="ember"
          disabled={busy || total === 0 || grave.length > 0 || waitsForApproval}
          onClick={() =>
            void act(async () => {
              await apiSend(apiPath(`dispatches?version=${basket.data.version}`));
              toast.info(`Sending to ${target} …`);
            })
          }
        >
          Send to {target}
        </Button>
      </PageHead>
      <DispatchTabs />
      <KeptByHand result={plan.data?.result} />
      {scheduled.data?.scheduled && (
        <Scheduled
          at={scheduled.data.scheduled.at}
          onCallOff={() => act(() => apiSend(apiPath(`jobs/${scheduled.data?.scheduled?.job}/cancel`)))}
        />
      )}
      <OnItsWay />
      {approval.data && (
        <ApprovalRule
          approval={approval.data}
          isWaiting={waitsForApproval}
          onChange={(isNeeded) => void act(() => apiSend(apiPath("settings"), { approval: isNeeded }, "PUT"))}
        />
      )}
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
        <BasketReview basket={basket.data} onRemove={(keys) => act(() => takeOut(keys))} />
      )}
      <History lines={history.data ?? []} onTakeBack={setTakingBack} busy={busy} />
      {isEmptying && (
        <AskEmpty basket={basket.data} onClose={() => setEmptying(false)} onDo={() => void act(() => takeOut("all"))} />
      )}
      {takingBack && (
        <AskTakeBack
          line={takingBack}
          isApproved={approval.data?.isNeeded ?? false}
          onClose={() => setTakingBack(null)}
          onDo={() => void act(() => takeBack(takingBack.id))}
        />
      )}
      {isLater && (
        <SendLater
          onClose={() => setLater(false)}
          onSend={(at) =>
            act(async () => {
              await apiSend(apiPath(`dispatches?version=${basket.data.version}&at=${at}`));
              setLater(false);
            })
          }
        />
      )}
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

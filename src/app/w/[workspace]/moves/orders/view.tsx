"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatMoment, plural } from "@/core/kit/format";
import { formatChange } from "@/core/kit/money";
import { formatDay } from "@/core/kit/days";
import { PROPOSERS, type ProposerKey } from "@/core/proposers/proposers";
import type { StandingLine, StandingRun } from "@/server/moves/standing-orders";
import { Button } from "@/ui/button";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting, Surface } from "@/ui/page";
import { Who } from "@/ui/who";
import { apiDelete, apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { MovesTabs } from "../tabs";
import { OrderDialog } from "./order-dialog";
import { SwitchOnDialog } from "./switch-on";

const STATES = { watching: "watches only", on: "on", stopped: "stopped" } as const;

/** Moves that may go out by themselves: what each may do, what it did, and one click to stop it. */
export default function OrdersPage() {
  const { currency, timeZone } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  useOwnWindow("After each day of results");
  const orders = useApi<StandingLine[]>(apiPath("standing-orders"));
  const [isMaking, setMaking] = useState(false);
  const [switching, setSwitching] = useState<StandingLine | null>(null);
  if (!orders.data) {
    return (
      <PageWaiting title="Moves" what="the standing orders" error={orders.error}>
        <MovesTabs />
      </PageWaiting>
    );
  }
  const act = async (work: () => Promise<unknown>, done: string) => {
    try {
      await work();
      toast.success(done);
    } catch (error) {
      toastError(error);
    }
    await refresh();
  };
  const on = orders.data.filter(({ state }) => state === "on").length;
  return (
    <div className="space-y-3">
      <PageHead
        title="Moves"
        facts={
          orders.data.length === 0
            ? "Nothing goes out by itself"
            : `${plural(orders.data.length, "standing order")}, ${on === 0 ? "none of them" : on} on`
        }
      >
        <Button look="ember" onClick={() => setMaking(true)}>
          New standing order …
        </Button>
      </PageHead>
      <MovesTabs />
      {orders.data.length === 0 ? (
        <EmptyNote title="No standing order yet">
          A standing order lets some kinds of moves go out by themselves, within limits that you set. It watches first
          and says what it would do; it is switched on by hand, and stopped by one click or by its guard.
        </EmptyNote>
      ) : (
        orders.data.map((order) => {
          const { id, definition, state, why, who, at, limits, runs } = order;
          return (
            <Surface
              key={id}
              title={definition.name}
              aside={
                <span className="flex items-center gap-2">
                  <span
                    className={`rounded px-1.5 text-xs font-semibold ${state === "on" ? "bg-petrol-wash" : state === "stopped" ? "bg-raised text-ember-strong" : "bg-raised text-soft"}`}
                  >
                    {STATES[state]}
                  </span>
                  {state === "on" ? (
                    <Button
                      look="ember"
                      onClick={() =>
                        void act(
                          () => apiSend(apiPath(`standing-orders/${id}/off`), { state: "stopped" }),
                          `“${definition.name}” is stopped`,
                        )
                      }
                    >
                      Stop
                    </Button>
                  ) : (
                    <Button onClick={() => setSwitching(order)}>Switch on …</Button>
                  )}
                  {state === "stopped" && (
                    <Button
                      onClick={() =>
                        void act(
                          () => apiSend(apiPath(`standing-orders/${id}/off`), { state: "watching" }),
                          `“${definition.name}” watches`,
                        )
                      }
                    >
                      Watch only
                    </Button>
                  )}
                  {state !== "on" && (
                    <Button
                      look="quiet"
                      onClick={() =>
                        void act(() => apiDelete(apiPath(`standing-orders/${id}`)), `“${definition.name}” is removed`)
                      }
                    >
                      Remove
                    </Button>
                  )}
                </span>
              }
            >
              <p className="num">
                {definition.kinds.map((kind) => PROPOSERS[kind as ProposerKey]?.name ?? kind).join(", ")}: {limits}.
              </p>
              <p className="text-sm text-soft num">
                {STATES[state]} since {formatMoment(at, timeZone)}, <Who who={who} />
                {why && `: ${why}`}
              </p>
              {runs.length > 0 && (
                <ul aria-label={`What ${definition.name} did`} className="mt-2 space-y-0.5 text-sm num">
                  {runs.map((run) => (
                    <li key={run.id}>{runWords(run, currency)}</li>
                  ))}
                </ul>
              )}
            </Surface>
          );
        })
      )}
      {isMaking && <OrderDialog onClose={() => setMaking(false)} />}
      {switching && <SwitchOnDialog order={switching} onClose={() => setSwitching(null)} />}
    </div>
  );
}

/** A time it was made, in words. */
function runWords({ day, outcome, moves, changes, spend, left, note }: StandingRun, currency: string): string {
  const on = `Results to ${formatDay(day)}`;
  const more = `spend a day ${formatChange(spend, currency)} expected`;
  const rest = left > 0 ? `; ${plural(left, "other")} left by its limits` : "";
  switch (outcome) {
    case "watched":
      return `${on}: would have sent ${plural(moves, "move")}, ${more}${rest}.`;
    case "sent":
      return `${on}: ${plural(moves, "move")} sent as ${plural(changes, "change")}, ${more}${rest}.`;
    case "waits":
      return `${on}: ${plural(moves, "move")} in the basket. ${note}`;
    case "nothing":
      return `${on}: nothing to do${rest}.`;
    case "stopped":
      return `${on}: ${note}.`;
    case "failed":
      return `${on}: nothing was done. ${note}`;
  }
}

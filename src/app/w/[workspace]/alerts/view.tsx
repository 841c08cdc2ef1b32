"use client";

import { useState } from "react";
import { toast } from "sonner";
import { ALERTS, type AlertKind } from "@/core/alerts/alerts";
import { formatMoment, plural } from "@/core/kit/format";
import type { AlertView, viewAlerts } from "@/server/alerts/look";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { PageHead, PageWaiting, Surface } from "@/ui/page";
import { SettledInput } from "@/ui/settled-input";
import { apiSend, jobEnded, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { PutAsideDialog } from "../put-aside-dialog";
import { TodayTabs } from "../today-tabs";
import { AlertAddress } from "./alert-address";

type Alerts = Awaited<ReturnType<typeof viewAlerts>>;

/** What is watched while nobody looks, how it stands, and where word of it is sent. */
export default function AlertsPage() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { timeZone } = useWorkspace();
  useOwnWindow("Days of each alert");
  const [isBusy, setBusy] = useState(false);
  const [aside, setAside] = useState<AlertKind | null>(null);
  const view = useApi<Alerts>(apiPath("alerts"));
  if (!view.data) return <PageWaiting title="Alerts" what="alerts" error={view.error} />;
  const { alerts, lookedAt } = view.data;
  const speaking = alerts.filter(({ isOn, state, aside: reason }) => isOn && state === "speaks" && reason === null);
  const look = async () => {
    setBusy(true);
    try {
      const { job } = await apiSend<{ job: string }>(apiPath("alerts/look"));
      await jobEnded(apiPath(`jobs/${job}`));
      await refresh();
    } catch (error) {
      toastError(error);
    } finally {
      setBusy(false);
    }
  };
  const set = async (kind: AlertKind, isOn: boolean, limit: number | null) => {
    try {
      await apiSend(apiPath("alerts"), { kind, isOn, limit }, "PUT");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const takeUp = (kind: AlertKind) =>
    apiSend(apiPath(`alerts/${kind}/aside`), { reason: "" }, "PUT")
      .then(refresh)
      .catch(toastError);
  return (
    <div className="flex flex-col gap-3">
      <PageHead
        title="Alerts"
        facts={`${speaking.length === 0 ? "None speaks up" : plural(speaking.length, "speaks up", "speak up")} · ${lookedAt === null ? "not looked at yet" : `looked at ${formatMoment(lookedAt, timeZone)}`}`}
      >
        <Button look="ember" disabled={isBusy} onClick={() => void look()}>
          {isBusy ? "Looking …" : "Look now"}
        </Button>
      </PageHead>
      <TodayTabs />
      <Surface>
        <table className="w-full text-sm" aria-label="Alerts">
          <thead>
            <tr className="border-b border-line text-left text-soft">
              <th className="w-16 py-1 font-normal">Watched</th>
              <th className="w-[32%] font-normal">What</th>
              <th className="w-44 font-normal">Limit</th>
              <th className="font-normal">How it stands</th>
              <th className="w-28 text-right font-normal">To do</th>
            </tr>
          </thead>
          <tbody>
            {alerts.map((alert) => (
              <AlertRow
                key={alert.kind}
                alert={alert}
                onSet={(isOn, limit) => void set(alert.kind, isOn, limit)}
                onAside={() => setAside(alert.kind)}
                onTakeUp={() => void takeUp(alert.kind)}
              />
            ))}
          </tbody>
        </table>
        <p className="mt-3 text-sm text-soft">
          Looked at after every day of new results, and every six hours besides. What luck may explain does not speak
          up; what nobody told is not taken for nought.
        </p>
      </Surface>
      <AlertAddress />
      {aside && (
        <PutAsideDialog
          title="Put an alert aside"
          what={ALERTS[aside].title}
          path={`alerts/${aside}/aside`}
          onClose={() => setAside(null)}
        >
          “{ALERTS[aside].title}” stays aside until it is quiet again. The next time it speaks up it is told anew.
        </PutAsideDialog>
      )}
    </div>
  );
}

const STANDS = { speaks: "Speaks up", quiet: "Quiet", unknown: "Not known" };

function AlertRow({
  alert: { kind, isOn, limit, state, says, since, aside, asideBy },
  onSet,
  onAside,
  onTakeUp,
}: {
  alert: AlertView;
  onSet: (isOn: boolean, limit: number | null) => void;
  onAside: () => void;
  onTakeUp: () => void;
}) {
  const { timeZone } = useWorkspace();
  const { title, label, about, limit: ends } = ALERTS[kind];
  const read = (text: string): number | null => {
    const value = Number(text.replace(",", "."));
    return text.trim() !== "" && ends && value >= ends.least && value <= ends.most ? value : null;
  };
  return (
    <tr className="border-b border-line/60 align-top">
      <td className="py-2">
        <input
          type="checkbox"
          aria-label={`Watch: ${label}`}
          checked={isOn}
          onChange={(event) => onSet(event.target.checked, limit)}
        />
      </td>
      <td className="py-2 pr-4">
        <b>{label}</b>
        <span className="block text-xs text-soft">{about}</span>
      </td>
      <td className="py-1.5 pr-4">
        {ends && limit !== null && (
          <span className="flex items-center gap-2">
            <SettledInput
              aria-label={`Limit: ${label}`}
              inputMode="decimal"
              className="w-20! shrink-0 text-right num"
              value={String(limit)}
              onSettle={(text) => {
                const value = read(text);
                if (value === null) {
                  toast.error(`A number of ${ends.unit} from ${ends.least} to ${ends.most}.`);
                  return false;
                }
                onSet(isOn, value);
                return value !== limit;
              }}
            />
            <span className="text-soft">{ends.unit}</span>
          </span>
        )}
      </td>
      <td className="py-2 pr-4 num">
        {!isOn ? (
          <span className="text-soft">Not watched.</span>
        ) : (
          <span
            className={cx(
              state === "speaks" && aside === null && "font-semibold text-ember",
              state === "unknown" && "text-soft",
            )}
          >
            {says || "Not looked at yet."}
          </span>
        )}
        {isOn && state !== null && since !== null && (
          <span className="block text-xs text-soft">
            {STANDS[state]} since {formatMoment(since, timeZone)}
          </span>
        )}
        {aside !== null && (
          <span className="block text-xs text-soft">
            Put aside by {asideBy}: {aside}
          </span>
        )}
      </td>
      <td className="py-1 text-right">
        {isOn && state === "speaks" && (
          <Button look="quiet" onClick={aside === null ? onAside : onTakeUp}>
            {aside === null ? "Put aside …" : "Take up again"}
            <span className="sr-only"> {title}</span>
          </Button>
        )}
      </td>
    </tr>
  );
}

"use client";

import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { ChannelView } from "@/server/dispatch/channel-view";
import type { MarketView } from "@/server/market/look";
import { Button, buttonClasses } from "@/ui/button";
import { DayInput } from "@/ui/day-input";
import { Field, Select, TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { ResultsTabs } from "../tabs";
import { CompareVersions } from "./compare-versions";

const PAUSES: [seconds: number, label: string][] = [
  [0, "as fast as it goes"],
  [1, "a day a second"],
  [5, "a day every 5 seconds"],
];

/** The stand-in for the outside world: run its days, and try two versions of the account on it. What it tells of demand stands under Targets. */
export default function MarketPage() {
  const apiPath = useApiPath();
  const { slug } = useWorkspace();
  const market = useApi<MarketView>(apiPath("market"));
  const channel = useApi<ChannelView>(apiPath("channel"));
  return (
    <div className="flex flex-col gap-3">
      <PageHead
        title="Results"
        facts={
          market.data &&
          `Test market, seed ${market.data.seed} · ${market.data.lastDay ? `run to ${market.data.lastDay}` : "not run yet"}${
            market.data.lateOrders > 0 ? ` · ${plural(market.data.lateOrders, "order")} still to come in` : ""
          }`
        }
      />
      <ResultsTabs />
      {market.error && <ErrorNote error={market.error.failure} />}
      {market.isPending && <Loading what="the market" />}
      {channel.data && channel.data.kind !== "market" && (
        <EmptyNote
          title={`This workspace sends to ${channel.data.name}`}
          action={
            <Link className={buttonClasses("plain")} href={`/w/${slug}/dispatch/channel`}>
              Look at the channel
            </Link>
          }
        >
          Days of the test market would stand among its own results, so none are run here. A workspace for trials has
          its own test market.
        </EmptyNote>
      )}
      {market.data && channel.data?.kind === "market" && (
        <>
          <div className="grid grid-cols-2 items-start gap-3">
            <RunDays view={market.data} />
            <CompareVersions />
          </div>
        </>
      )}
    </div>
  );
}

function RunDays({ view }: { view: MarketView }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [days, setDays] = useState(7);
  const [pause, setPause] = useState(0);
  const [from, setFrom] = useState("");
  const [seed, setSeed] = useState("");
  const [busy, setBusy] = useState(false);
  const run = async () => {
    setBusy(true);
    try {
      await apiSend(apiPath("market/run"), { days, pause, ...(from ? { from } : {}), ...(seed ? { seed } : {}) });
      toast.info(`Running ${plural(days, "day")} of the test market. You can go on meanwhile.`);
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Surface title="Run days">
      <div className="grid grid-cols-2 gap-3 text-sm">
        <Field label="Days to run">
          {(props) => (
            <Select {...props} value={days} onChange={(event) => setDays(Number(event.target.value))}>
              {[1, 7, 14, 30, 90].map((choice) => (
                <option key={choice} value={choice}>
                  {plural(choice, "day")}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Speed">
          {(props) => (
            <Select {...props} value={pause} onChange={(event) => setPause(Number(event.target.value))}>
              {PAUSES.map(([seconds, label]) => (
                <option key={seconds} value={seconds}>
                  {label}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="First day" hint={view.nextDay ? `Else ${view.nextDay}, the day after the last.` : "Else today."}>
          {(props) => (
            <DayInput {...props} value={from} min={view.nextDay ?? undefined} onChange={(text) => setFrom(text)} />
          )}
        </Field>
        <Field label="Seed of the draws" hint="The same seed on the same account gives the same days.">
          {(props) => (
            <TextInput
              {...props}
              value={seed}
              placeholder={view.seed}
              maxLength={60}
              onChange={(event) => setSeed(event.target.value)}
            />
          )}
        </Field>
      </div>
      <div className="mt-3 flex justify-end">
        <Button look="ember" disabled={busy} onClick={() => void run()}>
          Run the test market
        </Button>
      </div>
    </Surface>
  );
}

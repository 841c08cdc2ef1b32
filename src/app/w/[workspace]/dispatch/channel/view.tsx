"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatCount, formatMoment, plural } from "@/core/kit/format";
import type { ChannelView } from "@/server/dispatch/channel-view";
import type { FileStands } from "@/server/dispatch/read-back";
import type { ReadChannel } from "@/server/dispatch/read-channel";
import type { JobView } from "@/server/jobs/jobs";
import { Button } from "@/ui/button";
import { ErrorNote } from "@/ui/notes";
import { PageHead, PageWaiting, Surface } from "@/ui/page";
import { apiSend, apiUpload, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { DispatchTabs } from "../tabs";
import { ChooseChannel } from "./choose-channel";
import { CarriesTable } from "./carries-table";

const SENTENCE: Record<ChannelView["kind"], string> = {
  market:
    "The test market that ships with Hot Shelf: it takes what is sent, runs days on it, and gives reports and rate cards.",
  files:
    "Files that a person carries: what is sent comes as a file, reports and rate cards are read in as files, and what stands is known once a structure file was read back.",
  http: "A program that takes what is sent over HTTP and answers for each record.",
};

/** Where the workspace sends to: what that can carry, what stands there, and which one it is. */
export default function ChannelPage() {
  const apiPath = useApiPath();
  const { timeZone } = useWorkspace();
  const channel = useApi<ChannelView>(apiPath("channel"));
  const [isChoosing, setChoosing] = useState(false);
  if (channel.error || !channel.data)
    return (
      <PageWaiting title="Dispatch" what="the channel" error={channel.error}>
        <DispatchTabs />
      </PageWaiting>
    );
  const { kind, name, address, carries, toldAt } = channel.data;
  return (
    <div className="flex flex-col gap-3">
      <PageHead title="Dispatch" facts={`Sends to ${name}${address ? ` at ${address}` : ""}`}>
        <Button onClick={() => setChoosing(true)}>Choose another channel</Button>
      </PageHead>
      <DispatchTabs />
      <div className="grid grid-cols-2 items-start gap-3">
        <Surface title="The channel">
          <p>{SENTENCE[kind]}</p>
          {toldAt !== null && (
            <p className="mt-1 text-soft num">It last told what clicks cost on {formatMoment(toldAt, timeZone)}.</p>
          )}
        </Surface>
        <WhatStands kind={kind} />
      </div>
      <CarriesTable name={name} carries={carries} />
      {isChoosing && <ChooseChannel now={channel.data} onClose={() => setChoosing(false)} />}
    </div>
  );
}

/** Reads back what stands at the channel, and takes it over where it differs. */
function WhatStands({ kind }: { kind: ChannelView["kind"] }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const jobs = useApi<JobView[]>(apiPath("jobs"));
  const last = jobs.data?.find((job) => job.kind === "channel-read") ?? null;
  const read = last?.state === "done" ? (last.result as ReadChannel) : null;
  const isBusy = last?.state === "waiting" || last?.state === "running";
  const start = async (adopt: boolean) => {
    try {
      await apiSend(apiPath("channel/read"), { adopt });
      if (adopt) toast.info("Taking over what stands at the channel …");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const differ = read ? read.otherwise + read.onlyThere + read.missing : 0;
  return (
    <Surface
      title="What stands there"
      aside={
        <Button disabled={isBusy} onClick={() => void start(false)}>
          {isBusy ? "Reading …" : "Read it back"}
        </Button>
      }
    >
      {kind === "files" && <StandsFile onTaken={() => void start(false)} />}
      {last?.state === "failed" && last.error && <ErrorNote error={last.error} />}
      {!read && !isBusy && last?.state !== "failed" && (
        <p>Whether the channel has what Hot Shelf thinks it has was not looked at yet.</p>
      )}
      {read && differ === 0 && <p className="num">All {formatCount(read.records)} records stand as they should.</p>}
      {read && differ > 0 && read.dispatch !== null && (
        <p className="num">
          {plural(differ, "record")} stood otherwise there and were taken over, as dispatch {read.dispatch}.
        </p>
      )}
      {read && differ > 0 && read.dispatch === null && (
        <div className="space-y-2 num">
          <p>
            Of {plural(read.records, "record")} there, <b>{formatCount(read.otherwise)}</b> stand otherwise than Hot
            Shelf thinks, <b>{formatCount(read.onlyThere)}</b> are only there; <b>{formatCount(read.missing)}</b> are
            not there.
          </p>
          <ul className="max-h-40 overflow-y-auto text-sm">
            {read.words.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
          <p className="text-soft">
            Taking it over changes nothing there: what stands counts as live from then on, and can be taken back like
            any dispatch. The basket goes on from it.
          </p>
          <Button look="ember" disabled={isBusy} onClick={() => void start(true)}>
            Take over {plural(differ, "record")}
          </Button>
        </div>
      )}
    </Surface>
  );
}

/** Takes in the structure file of the place that files are carried to: only that tells what stands there. */
function StandsFile({ onTaken }: { onTaken: () => void }) {
  const apiPath = useApiPath();
  const [told, setTold] = useState<FileStands | null>(null);
  const take = async (file: File) => {
    try {
      const text = /\.xlsx$/i.test(file.name)
        ? (await apiUpload<{ text: string }>(apiPath("structure/read-back/cells"), file)).text
        : await file.text();
      setTold(await apiSend<FileStands>(apiPath("channel/stands"), { text }));
      onTaken();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <div className="mb-2 space-y-1 text-sm">
      <label className="block">
        <span className="block text-soft">The structure file from there, all of it:</span>
        <input
          type="file"
          accept=".csv,.tsv,.txt,.xlsx"
          className="block"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) void take(file);
          }}
        />
      </label>
      {told && (
        <p className="num">
          {plural(told.lines, "line")} read: {formatCount(told.same)} as given out, {formatCount(told.otherwise)}{" "}
          otherwise, {formatCount(told.missing)} missing.
          {told.faults.length > 0 &&
            ` ${plural(told.faults.length + told.moreFaults, "fault")}, the first in line ${told.faults[0]!.line}: ${told.faults[0]!.message}`}
        </p>
      )}
    </div>
  );
}

"use client";

import { Copy, Download } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { formatMoment, plural } from "@/core/kit/format";
import { LABEL_LENGTH, labelHeading } from "@/core/shelves/label-feed";
import type { LabelSettings } from "@/server/shelves/labels";
import { Button, buttonClasses } from "@/ui/button";
import { Checkbox, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { ShelvesTabs } from "../tabs";
import { useShelfSets } from "../use-shelf-fields";

const FORMATS = ["csv", "tsv", "xml"] as const;

/** Which sets go out as labels, and the feed that takes them to the channel. */
export default function LabelsPage() {
  const apiPath = useApiPath();
  const labels = useApi<LabelSettings>(apiPath("labels"));
  useOwnWindow("No days: labels are as shelves stand");
  return (
    <div className="space-y-3">
      <PageHead
        title="Labels"
        facts={`A label for each set that goes out, headed as the channel is to read it; shelves’ names are cut to ${LABEL_LENGTH} characters`}
      />
      <ShelvesTabs />
      {labels.error && <ErrorNote error={labels.error.failure} />}
      {labels.isPending && <Loading what="labels" />}
      {labels.data && (
        <>
          <Columns key={JSON.stringify(labels.data.columns)} settings={labels.data} />
          <FeedBox settings={labels.data} />
        </>
      )}
    </div>
  );
}

interface Chosen {
  isOut: boolean;
  name: string;
}

function Columns({ settings }: { settings: LabelSettings }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const sets = useShelfSets();
  const [changed, setChanged] = useState<ReadonlyMap<string, Chosen>>(new Map());
  const keptOf = (key: string): Chosen => {
    const kept = settings.columns.find(({ setKey }) => setKey === key);
    return { isOut: kept !== undefined, name: kept?.name ?? labelHeading(key) };
  };
  const of = (key: string) => changed.get(key) ?? keptOf(key);
  const change = (key: string, to: Partial<Chosen>) =>
    setChanged((old) => new Map(old).set(key, { ...(old.get(key) ?? keptOf(key)), ...to }));
  const save = async () => {
    const columns = (sets.data ?? []).flatMap(({ definition: { key } }) => {
      const { isOut, name } = of(key);
      return isOut ? [{ setKey: key, name }] : [];
    });
    try {
      await apiSend(apiPath("labels"), { columns }, "PUT");
      toast.success(`${plural(columns.length, "label")} an item kept`);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Surface title="Sets that go out">
      <ul className="grid gap-x-8 gap-y-1.5 text-sm xl:grid-cols-2">
        {(sets.data ?? []).map(({ definition: { key, name: setName } }) => {
          const { isOut, name } = of(key);
          return (
            <li key={key} className="flex items-center gap-3">
              <span className="min-w-0 flex-1">
                <Checkbox
                  label={setName}
                  checked={isOut}
                  onChange={(event) => change(key, { isOut: event.target.checked })}
                />
              </span>
              <span className={isOut ? "text-soft" : "invisible"}>as</span>
              <TextInput
                aria-label={`Heading of ${setName}`}
                className="w-60! font-mono"
                disabled={!isOut}
                value={name}
                onChange={(event) => change(key, { name: event.target.value })}
              />
            </li>
          );
        })}
      </ul>
      {settings.clashes.map((clash) => (
        <p key={clash} className="mt-2 text-sm font-semibold text-ember">
          {clash}
        </p>
      ))}
      <div className="mt-3">
        <Button look="ember" onClick={() => void save()}>
          Keep these labels
        </Button>
      </div>
    </Surface>
  );
}

function FeedBox({ settings }: { settings: LabelSettings }) {
  const { slug, timeZone } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  if (settings.columns.length === 0) {
    return (
      <p className="rounded-md bg-petrol-wash px-3 py-2">
        Choose sets that go out; then the feed of labels stands here, as a file and at an address.
      </p>
    );
  }
  const address = (kind: string) => `${window.location.origin}/api/v1/${slug}/label-feed/${settings.token}/${kind}`;
  const copy = async (kind: string) => {
    await navigator.clipboard.writeText(address(kind));
    toast.success("Address copied");
  };
  const renew = async () => {
    try {
      await apiSend(apiPath("labels/renew"));
      toast.success("The feed has a new address; the old one gives nothing any more.");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Surface title="Feed of labels">
      <p className="text-sm num" suppressHydrationWarning>
        {plural(settings.items, "item")}, one a row, keyed by item ID.{" "}
        {settings.fetchedAt === null
          ? "No channel has fetched it yet."
          : `Last fetched ${formatMoment(settings.fetchedAt, timeZone)}; since then the labels of ${plural(settings.changedSince ?? 0, "item")} changed.`}
      </p>
      <table className="mt-2 text-sm" aria-label="Label feed">
        <tbody>
          {FORMATS.map((kind) => (
            <tr key={kind}>
              <th scope="row" className="pr-4 text-left font-mono font-normal uppercase">
                {kind}
              </th>
              <td className="py-1 pr-2">
                <a className={buttonClasses("plain")} href={`/api/v1/${slug}/labels/file?format=${kind}`} download>
                  <Download aria-hidden className="size-3.5" /> Download
                </a>
              </td>
              <td>
                <Button look="quiet" onClick={() => void copy(kind)}>
                  <Copy aria-hidden className="size-3.5" /> Copy its address
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 flex items-center gap-2 text-sm text-soft">
        Whoever knows the address can read the labels.
        <Button look="quiet" onClick={() => void renew()}>
          Give it a new one
        </Button>
      </p>
    </Surface>
  );
}

"use client";

import { Copy, Download } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { formatMoment, plural } from "@/core/kit/format";
import { LABEL_COLUMNS, LABEL_LENGTH } from "@/core/shelves/label-feed";
import type { LabelSettings } from "@/server/shelves/labels";
import { Button, buttonClasses } from "@/ui/button";
import { Select, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { ShelvesTabs } from "../tabs";
import { useShelfSets } from "../use-shelf-fields";

const FORMATS = ["csv", "tsv", "xml"] as const;

/** Which set writes which label column of the channel, and the feed that takes the labels there. */
export default function LabelsPage() {
  const apiPath = useApiPath();
  const labels = useApi<LabelSettings>(apiPath("labels"));
  useOwnWindow("No days: labels are as shelves stand");
  return (
    <div className="space-y-3">
      <PageHead
        title="Labels"
        facts={`Channels have few label columns: up to ${LABEL_COLUMNS}, each written by one set, names cut to ${LABEL_LENGTH} characters`}
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

function Columns({ settings }: { settings: LabelSettings }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const sets = useShelfSets();
  const [columns, setColumns] = useState(() =>
    Array.from({ length: LABEL_COLUMNS }, (_, no) => {
      const known = settings.columns.find((column) => column.no === no);
      return { no, name: known?.name ?? `label_${no}`, setKey: known?.setKey ?? "" };
    }),
  );
  const save = async () => {
    try {
      await apiSend(apiPath("labels"), { columns: columns.filter(({ setKey }) => setKey !== "") }, "PUT");
      toast.success("Label columns are kept");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const change = (no: number, to: Partial<(typeof columns)[number]>) =>
    setColumns(columns.map((column) => (column.no === no ? { ...column, ...to } : column)));
  return (
    <Surface title="Columns">
      <ul className="space-y-2">
        {columns.map(({ no, name, setKey }) => (
          <li key={no} className="flex items-center gap-2 text-sm">
            <TextInput
              aria-label={`Heading of column ${no + 1}`}
              className="w-44! font-mono"
              value={name}
              onChange={(event) => change(no, { name: event.target.value })}
            />
            <span className="text-soft">is written by</span>
            <Select
              aria-label={`Set of column ${no + 1}`}
              className="w-64!"
              value={setKey}
              onChange={(event) => change(no, { setKey: event.target.value })}
            >
              <option value="">no set: the column is left out</option>
              {sets.data?.map(({ definition }) => (
                <option key={definition.key} value={definition.key}>
                  {definition.name}
                </option>
              ))}
            </Select>
          </li>
        ))}
      </ul>
      {settings.clashes.map((clash) => (
        <p key={clash} className="mt-2 text-sm font-semibold text-ember">
          {clash}
        </p>
      ))}
      <div className="mt-3">
        <Button look="ember" onClick={() => void save()}>
          Keep these columns
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
        Choose a set for a column; then the feed of labels stands here, as a file and at an address.
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

"use client";

import { ArrowDown, ArrowUp, Download } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import type { NotCarried } from "@/core/dispatch/carries";
import { STRUCTURE_HEADINGS } from "@/core/dispatch/export";
import { exportProfileSchema, type ExportProfile } from "@/core/dispatch/export-profile";
import { formatCount, plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox, Field, Select, TextInput } from "@/ui/field";
import { useSettled } from "@/ui/use-settled";
import { apiBytes, apiDelete, apiSend, toastError, useApi, useAsk } from "../../../_lib/api";
import { saveFile } from "../../../_lib/save-file";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

const FORMATS = { csv: "CSV", tsv: "TSV", xlsx: "XLSX", json: "JSON" } as const;
const MONEY = { units: "12.50", cents: "1250, in cents", currency: "12.50 with the currency" } as const;
const WHAT = { everything: "everything", differences: "what the channel does not have yet" } as const;

/** A key made from a name, as profiles are kept under. */
function keyFrom(name: string): string {
  const key = name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "");
  return key.slice(0, 40) || "profile";
}

/** Writes the structure out as another place wants it: columns, headings, forms of money; kept as a profile where asked. */
export function ExportDialog({ onClose }: { onClose: () => void }) {
  const apiPath = useApiPath();
  const profiles = useApi<ExportProfile[]>(apiPath("export-profiles"));
  if (!profiles.data) return null;
  return (
    <Dialog open wide onClose={onClose} title="Export the structure">
      <ExportForm profiles={profiles.data} onClose={onClose} />
    </Dialog>
  );
}

function ExportForm({ profiles, onClose }: { profiles: ExportProfile[]; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [draft, setDraft] = useState(profiles[0]!);
  const [busy, setBusy] = useState(false);
  const set = (change: Partial<ExportProfile>) => setDraft((old) => ({ ...old, ...change }));
  const parsed = exportProfileSchema.safeParse(draft);
  const fault = parsed.success ? null : (parsed.error.issues[0]?.message ?? "Something is not right.");
  const act = async (work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const download = async () => {
    const bytes = await apiBytes(apiPath("structure/export"), draft);
    saveFile(`${draft.key}.${draft.format}`, bytes);
  };
  const keep = async () => {
    const kept = { ...draft, key: keyFrom(draft.name) };
    await apiSend(apiPath("export-profiles"), kept, "PUT");
    setDraft(kept);
    await refresh();
    toast.success(`“${kept.name}” is kept`);
  };
  const choice = <K extends "format" | "money" | "what">(
    name: K,
    label: string,
    words: Record<ExportProfile[K], string>,
  ) => (
    <Field label={label}>
      {(props) => (
        <Select {...props} value={draft[name]} onChange={(event) => set({ [name]: event.target.value })}>
          {Object.entries(words).map(([key, text]) => (
            <option key={key} value={key}>
              {text as string}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
  const isKept = profiles.some(({ key }) => key === draft.key);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_280px] gap-5">
      <Columns value={draft.columns} onChange={(columns) => set({ columns })} />
      <div className="space-y-3">
        <Field label="Profile">
          {(props) => (
            <Select
              {...props}
              value={isKept ? draft.key : ""}
              onChange={(event) => setDraft(profiles.find(({ key }) => key === event.target.value) ?? draft)}
            >
              {!isKept && <option value="">not kept yet</option>}
              {profiles.map(({ key, name }) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {choice("format", "File", FORMATS)}
        {choice("what", "Lines", WHAT)}
        {choice("money", "Money", MONEY)}
        <div className="grid grid-cols-2 gap-3">
          <Field label="Decimal mark">
            {(props) => (
              <Select
                {...props}
                value={draft.decimal}
                onChange={(event) => set({ decimal: event.target.value as ExportProfile["decimal"] })}
              >
                <option value=".">point</option>
                <option value=",">comma</option>
              </Select>
            )}
          </Field>
          <Field label="CSV parted by">
            {(props) => (
              <Select
                {...props}
                value={draft.delimiter}
                disabled={draft.format !== "csv"}
                onChange={(event) => set({ delimiter: event.target.value as ExportProfile["delimiter"] })}
              >
                <option value=",">comma</option>
                <option value=";">semicolon</option>
              </Select>
            )}
          </Field>
        </div>
        <Field label="Name" hint="To keep it as a profile.">
          {(props) => (
            <TextInput {...props} value={draft.name} onChange={(event) => set({ name: event.target.value })} />
          )}
        </Field>
        <LeftOut profile={parsed.success ? parsed.data : null} />
        {fault && <p className="text-sm font-semibold text-ember">{fault}</p>}
        {!draft.columns.some(({ column }) => column === "key") && (
          <p className="text-sm text-soft">Without the key column the file can’t be read back.</p>
        )}
        <div className="flex flex-wrap justify-end gap-2">
          {isKept && draft.key !== "plain" && (
            <Button
              disabled={busy}
              onClick={() =>
                void act(async () => {
                  await apiDelete(apiPath(`export-profiles/${draft.key}`));
                  setDraft(profiles[0]!);
                  await refresh();
                })
              }
            >
              Take away
            </Button>
          )}
          <Button disabled={busy || fault !== null} onClick={() => void act(keep)}>
            Keep
          </Button>
          <Button look="ember" disabled={busy || fault !== null} onClick={() => void act(download).then(onClose)}>
            <Download aria-hidden className="size-3.5" /> Download
          </Button>
        </div>
      </div>
    </div>
  );
}

/** Lines shown of what a profile does not write. */
const MOST_LEFT_OUT = 4;

/** What of the structure has no column in a profile, before it is written. */
function LeftOut({ profile }: { profile: ExportProfile | null }) {
  const apiPath = useApiPath();
  const asked = useSettled(profile, 300);
  const { data } = useAsk<{ total: number; records: NotCarried[] }>(
    apiPath(`structure/export/left-out?limit=${MOST_LEFT_OUT}`),
    asked ?? {},
    { enabled: asked !== null },
  );
  if (!data || data.total === 0) return null;
  return (
    <div role="note" className="rounded-md bg-raised px-3 py-2 text-sm num">
      <p className="font-semibold">{plural(data.total, "line")} would be written without some of it:</p>
      <ul>
        {data.records.map(({ key, name, why }) => (
          <li key={key} className="truncate" title={`${name} ${why}`}>
            {name} {why}
          </li>
        ))}
        {data.total > data.records.length && <li>and {formatCount(data.total - data.records.length)} more</li>}
      </ul>
    </div>
  );
}

/** Columns in their order, those that are left out at the end. */
function Columns({
  value,
  onChange,
}: {
  value: ExportProfile["columns"];
  onChange: (value: ExportProfile["columns"]) => void;
}) {
  const left = STRUCTURE_HEADINGS.filter((name) => !value.some(({ column }) => column === name));
  const move = (at: number, step: number) => {
    const [moved] = value.slice(at, at + 1);
    if (moved) onChange(value.toSpliced(at, 1).toSpliced(at + step, 0, moved));
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold">Columns, in their order</legend>
      <ul className="max-h-[60vh] space-y-1 overflow-y-auto" tabIndex={0} aria-label="Columns">
        {value.map(({ column, heading }, at) => (
          <li key={column} className="grid grid-cols-[180px_minmax(0,1fr)_auto] items-center gap-2">
            <Checkbox label={column} checked onChange={() => onChange(value.toSpliced(at, 1))} />
            <TextInput
              aria-label={`Heading of ${column}`}
              value={heading}
              onChange={(event) => onChange(value.with(at, { column, heading: event.target.value }))}
            />
            <span className="flex">
              <Button
                look="quiet"
                className="px-1.5!"
                disabled={at === 0}
                aria-label={`${column} up`}
                onClick={() => move(at, -1)}
              >
                <ArrowUp aria-hidden className="size-3.5" />
              </Button>
              <Button
                look="quiet"
                className="px-1.5!"
                disabled={at === value.length - 1}
                aria-label={`${column} down`}
                onClick={() => move(at, 1)}
              >
                <ArrowDown aria-hidden className="size-3.5" />
              </Button>
            </span>
          </li>
        ))}
        {left.map((column) => (
          <li key={column} className="text-soft">
            <Checkbox
              label={column}
              checked={false}
              onChange={() => onChange([...value, { column, heading: column }])}
            />
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

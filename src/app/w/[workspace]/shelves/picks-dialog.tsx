import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { PickedItem, PickEffect } from "@/server/shelves/picks";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { DayInput } from "@/ui/day-input";
import { Field, Select } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useSettled } from "@/ui/use-settled";
import { ApiError, apiSend, toastError, useApi, useAsk } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

type Mode = "add" | "replace" | "remove";

/** The list of a hand-picked shelf, and what a pasted one would do to it. */
export function PicksDialog({
  set,
  shelf,
  name,
  onClose,
}: {
  set: string;
  shelf: string;
  name: string;
  onClose: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const path = apiPath(`shelf-sets/${set}/shelves/${shelf}/picks`);
  const picks = useApi<PickedItem[]>(path);
  const [text, setText] = useState("");
  const [mode, setMode] = useState<Mode>("add");
  const [from, setFrom] = useState("");
  const [until, setUntil] = useState("");
  const body = { text, mode, from: from || null, until: until || null };
  const asked = JSON.parse(useSettled(JSON.stringify(body), 250)) as typeof body;
  const effect = useAsk<PickEffect>(path, { ...asked, preview: true }, { enabled: asked.text.trim() !== "" });
  const put = async () => {
    try {
      const { counts } = await apiSend<PickEffect>(path, body);
      toast.success(`${plural(counts.added, "item")} added, ${counts.removed} taken off.`);
      setText("");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const counts = text.trim() === "" ? null : effect.data?.counts;
  return (
    <Dialog open onClose={onClose} title={`On “${name}”`} wide>
      <div className="grid grid-cols-2 gap-5">
        <div className="space-y-3">
          <Field
            label="Paste item IDs"
            hint="In any form: one a line, with commas, a column of a sheet. Beside an ID: a day from, a day until."
          >
            {(props) => (
              <textarea
                {...props}
                rows={7}
                className="w-full rounded-md border border-line bg-surface p-2 font-mono text-sm"
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
            )}
          </Field>
          <div className="grid grid-cols-3 gap-2">
            <Field label="This list">
              {(props) => (
                <Select {...props} value={mode} onChange={(event) => setMode(event.target.value as Mode)}>
                  <option value="add">is added</option>
                  <option value="replace">takes the place of all</option>
                  <option value="remove">is taken off</option>
                </Select>
              )}
            </Field>
            <Field label="From">
              {(props) => <DayInput {...props} value={from} onChange={(text) => setFrom(text)} />}
            </Field>
            <Field label="Until">
              {(props) => <DayInput {...props} value={until} onChange={(text) => setUntil(text)} />}
            </Field>
          </div>
          {effect.error instanceof ApiError && text.trim() !== "" && <ErrorNote error={effect.error.failure} />}
          {counts && (
            <div role="status" className="space-y-1 rounded-md bg-petrol-wash px-3 py-2 text-sm num">
              <p>
                <b>{plural(counts.added, "item")} added</b>, {counts.removed} taken off, {counts.kept} stay.
              </p>
              {counts.unknown > 0 && (
                <p>
                  {plural(counts.unknown, "ID")} no reading has: {effect.data!.unknown.slice(0, 6).join(", ")}
                  {counts.unknown > 6 && " …"}.{" "}
                  {counts.unknown === 1 ? "It is kept for when it comes." : "They are kept for when they come."}
                </p>
              )}
              {counts.removed > 0 && <p>Taken off: {named(effect.data!.removed)}</p>}
            </div>
          )}
          <Button
            look="ember"
            disabled={!counts || counts.added + counts.removed + counts.kept === 0}
            onClick={() => void put()}
          >
            {mode === "remove" ? "Take them off" : mode === "replace" ? "Put this list in its place" : "Add them"}
          </Button>
        </div>
        <div className="min-h-0">
          <h3 className="mb-1 font-semibold">{picks.data ? `${plural(picks.data.length, "item")} on it` : "On it"}</h3>
          {picks.isPending && <Loading what="the list" />}
          <ul className="max-h-96 space-y-1 overflow-y-auto text-sm" aria-label="Items on the shelf">
            {picks.data?.slice(0, 500).map(({ id, title, from: start, until: end }) => (
              <li key={id}>
                {title ?? <span className="text-soft">not in the catalogue yet</span>}{" "}
                <span className="font-mono text-xs text-soft">{id}</span>
                {(start || end) && (
                  <span className="text-xs text-soft">
                    {" "}
                    {start && `from ${start}`} {end && `until ${end}`}
                  </span>
                )}
              </li>
            ))}
          </ul>
        </div>
      </div>
    </Dialog>
  );
}

function named(items: PickedItem[]): string {
  const words = items.slice(0, 5).map(({ id, title }) => title ?? id);
  return words.join(", ") + (items.length > 5 ? ` and ${items.length - 5} more` : "");
}

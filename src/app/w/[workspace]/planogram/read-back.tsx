"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import type { ReadBackView } from "@/server/dispatch/read-back";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useSettled } from "@/ui/use-settled";
import { ApiError, apiSend, apiUpload, toastError, useAsk } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** Reads a structure file back that was edited elsewhere: what it changes is shown before it goes into the basket. */
export function ReadBack({ onClose }: { onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [text, setText] = useState("");
  const [busy, setBusy] = useState(false);
  // A workbook is taken apart by the server; texts are read here.
  const textOf = async (file: File) =>
    /\.xlsx$/i.test(file.name)
      ? (await apiUpload<{ text: string }>(apiPath("structure/read-back/cells"), file)).text
      : file.text();
  const asked = useSettled(text, 300);
  const preview = useAsk<ReadBackView>(
    apiPath("structure/read-back/preview"),
    { text: asked },
    { enabled: asked.trim() !== "" },
  );
  const keep = async () => {
    setBusy(true);
    try {
      const { changes } = await apiSend<{ changes: number }>(apiPath("structure/read-back"), { text });
      toast.success(`${plural(changes, "change")} in the basket`);
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title="Read a file back" wide>
      <div className="space-y-3">
        <p className="text-sm text-soft">
          Take the structure out as CSV or XLSX, change names, status, bids, budgets or serve order, and bring it back
          here: as a file, or as cells copied out of the spreadsheet. Lines are known by their key.
        </p>
        <input
          type="file"
          accept=".csv,.tsv,.txt,.xlsx"
          aria-label="Structure file"
          className="block text-sm"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) textOf(file).then(setText).catch(toastError);
          }}
        />
        <Field label="Or its cells">
          {(props) => (
            <textarea
              {...props}
              rows={4}
              readOnly={text.length > 20_000}
              className="w-full rounded-md border border-line bg-surface p-2 font-mono text-xs"
              value={text.length > 20_000 ? `${text.slice(0, 20_000)}…` : text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        {preview.error instanceof ApiError && <ErrorNote error={preview.error.failure} />}
        {preview.isFetching && <Loading what="what it changes" />}
        {preview.data && <Found view={preview.data} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            look="ember"
            disabled={busy || !preview.data || preview.data.changes === 0}
            onClick={() => void keep()}
          >
            Put into the basket
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

function Found({ view: { lines, same, changes, words, faults, moreFaults } }: { view: ReadBackView }) {
  return (
    <div className="space-y-2 text-sm">
      <p role="status" className="num">
        {plural(lines, "line")}: <b>{plural(changes, "change")}</b>, {formatCount(same)} as they are
        {faults.length > 0 && `, ${formatCount(faults.length + moreFaults)} not followed`}.
      </p>
      {faults.length > 0 && (
        <div role="alert" className="max-h-32 overflow-y-auto text-ember" tabIndex={0} aria-label="Not followed">
          <ul>
            {faults.map(({ line, message }) => (
              <li key={`${line}/${message}`}>
                Line {line}: {message}
              </li>
            ))}
            {moreFaults > 0 && <li>and {plural(moreFaults, "more line")}.</li>}
          </ul>
        </div>
      )}
      <ul className="max-h-48 overflow-y-auto num" tabIndex={0} aria-label="Changes">
        {words.map(({ key, text }) => (
          <li key={key}>{text}</li>
        ))}
      </ul>
    </div>
  );
}

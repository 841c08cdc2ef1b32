"use client";

import Papa from "papaparse";
import { useState } from "react";
import { toast } from "sonner";
import type { LookupList } from "@/core/catalogue/derive/derived-field";
import { detectDelimiter } from "@/core/catalogue/detect";
import { versionOf } from "@/core/kit/version-of";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { apiDelete, apiSend, toastError, toastMeanwhile, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

/** A key for something that a person named. */
export function keyFor(name: string): string {
  const folded = name
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 40)
    .replace(/-+$/, "");
  return folded || `x${name.length}`;
}

/** Cells copied from a spreadsheet as the entries of a list; rows without a second cell are left out. */
export function readEntries(text: string): { rows: LookupList["rows"]; skipped: number; repeated: number } {
  const delimiter = text.includes("\t") ? "\t" : detectDelimiter(text);
  const parsed = Papa.parse<string[]>(text.trim(), { delimiter, skipEmptyLines: "greedy" }).data;
  const seen = new Set<string>();
  let repeated = 0;
  const rows = parsed.flatMap((cells): LookupList["rows"] => {
    const [from = "", one = "", two = ""] = cells.map((cell) => cell.trim());
    if (from === "" || one === "") return [];
    if (seen.has(from.toLowerCase())) repeated++;
    seen.add(from.toLowerCase());
    return [[from, one, two]];
  });
  return { rows, skipped: parsed.length - rows.length, repeated };
}

/** Makes or changes a look-up list; "" makes a new one, null closes. */
export function LookupDialog({
  listKey,
  onClose,
  onSaved,
}: {
  listKey: string | null;
  onClose: () => void;
  onSaved: (list: LookupList) => void;
}) {
  const apiPath = useApiPath();
  const lists = useApi<LookupList[]>(listKey === null ? null : apiPath("lookups"));
  const known = lists.data?.find(({ key }) => key === listKey);
  const isReady = listKey === "" || known !== undefined;
  return (
    <Dialog open={listKey !== null} onClose={onClose} title={listKey === "" ? "New look-up list" : "Look-up list"} wide>
      {isReady ? <LookupForm known={known} onClose={onClose} onSaved={onSaved} /> : <Loading what="the list" />}
    </Dialog>
  );
}

function LookupForm({
  known,
  onClose,
  onSaved,
}: {
  known: LookupList | undefined;
  onClose: () => void;
  onSaved: (list: LookupList) => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [name, setName] = useState(known?.name ?? "");
  const [text, setText] = useState(() => (known?.rows ?? []).map((row) => row.join("\t").trimEnd()).join("\n"));
  // As it was when the dialog opened, whatever is read anew since.
  const [seen] = useState(() => versionOf(known ?? null));
  const { rows, skipped, repeated } = readEntries(text);
  const save = async (since = `?since=${seen}`) => {
    const list = { key: known?.key ?? keyFor(name), name: name.trim(), rows };
    await apiSend(apiPath(`lookups${since}`), list);
    toast.success(`List "${list.name}" kept`);
    await refresh();
    onSaved(list);
  };
  const remove = async () => {
    await apiDelete(apiPath(`lookups/${known!.key}`));
    await refresh();
    onClose();
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void save().catch((error: unknown) => toastMeanwhile(error, () => void save("").catch(toastError)));
      }}
    >
      <Field label="Name">
        {(props) => <TextInput {...props} autoFocus value={name} onChange={(event) => setName(event.target.value)} />}
      </Field>
      <Field
        label="Entries, pasted from a spreadsheet"
        hint="What is looked up, what it stands for, and if you like a second word for it: the code a channel wants and the word a shopper reads."
      >
        {(props) => (
          <textarea
            {...props}
            rows={12}
            className="w-full rounded-md border border-line bg-surface p-2 font-mono text-xs"
            placeholder={"RAL 3001\tred\tSignal red\nRAL 6005\tgreen\tMoss green"}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        )}
      </Field>
      <p role="status" className="text-sm text-soft num">
        {plural(rows.length, "entry", "entries")}
        {skipped > 0 && `, ${plural(skipped, "row")} without a second cell left out`}
        {repeated > 0 && `, ${repeated} repeated: the first of each counts`}
      </p>
      <div className="flex justify-end gap-2">
        {known && (
          <Button look="quiet" className="mr-auto" onClick={() => void remove().catch(toastError)}>
            Remove the list
          </Button>
        )}
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={name.trim() === "" || rows.length === 0}>
          Keep the list
        </Button>
      </div>
    </form>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";
import type { ItemAction } from "../item-actions";

/** What can be done with the selected items. */
export function SelectionBar({
  ids,
  onAction,
  onShelf,
  onSelect,
  onCopy,
}: {
  ids: string[];
  onAction: (action: ItemAction) => void;
  onShelf: () => void;
  onSelect: (ids: string[]) => void;
  onCopy: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [noteText, setNoteText] = useState<string | null>(null);
  const addFamilies = async () => {
    const found = await apiSend<{ ids: string[] }>(apiPath("item-ids/families"), { ids });
    const more = found.ids.length - ids.length;
    if (more === 0) toast.info("Their families are selected already.");
    else toast.success(`${plural(more, "more item")} of their families selected`);
    onSelect(found.ids);
  };
  const keepNote = async () => {
    const text = noteText?.trim() ?? "";
    if (text === "") return;
    await apiSend(apiPath("notes/many"), { lines: ids.map((id) => ({ id, text })) });
    toast.success(`Note kept on ${plural(ids.length, "item")}`);
    setNoteText(null);
    await refresh();
  };
  return (
    <div className="flex flex-wrap items-center gap-2 rounded-md bg-petrol-wash px-3 py-1.5 text-sm">
      <b className="num">{plural(ids.length, "item")} selected</b>
      <Button onClick={() => onAction("bid")}>Set bid</Button>
      <Button onClick={() => onAction("exclude")}>Exclude</Button>
      <Button onClick={onShelf}>Put on a shelf</Button>
      <Button onClick={() => void addFamilies().catch(toastError)}>Add their families</Button>
      <Button onClick={() => setNoteText("")}>Add note</Button>
      <Button onClick={onCopy}>Copy</Button>
      <Button look="quiet" onClick={() => onSelect([])}>
        Clear
      </Button>
      <Dialog
        open={noteText !== null}
        onClose={() => setNoteText(null)}
        title={`Note on ${plural(ids.length, "item")}`}
      >
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            void keepNote().catch(toastError);
          }}
        >
          <textarea
            aria-label="Note"
            autoFocus
            rows={4}
            className="w-full rounded-md border border-line bg-surface p-2 text-sm"
            value={noteText ?? ""}
            onChange={(event) => setNoteText(event.target.value)}
          />
          <div className="flex justify-end gap-2">
            <Button onClick={() => setNoteText(null)}>Leave it</Button>
            <Button look="ember" type="submit" disabled={(noteText ?? "").trim() === ""}>
              Keep the note
            </Button>
          </div>
        </form>
      </Dialog>
    </div>
  );
}

"use client";

import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";
import type { ItemAction } from "../item-actions";

/** What can be done with the selected items. */
export function SelectionBar({
  ids,
  onAction,
  onShelf,
  onLaunch,
  onSelect,
  onCopy,
}: {
  ids: string[];
  onAction: (action: ItemAction) => void;
  onShelf: () => void;
  onLaunch: () => void;
  onSelect: (ids: string[]) => void;
  onCopy: () => void;
}) {
  const apiPath = useApiPath();
  const addFamilies = async () => {
    const found = await apiSend<{ ids: string[] }>(apiPath("item-ids/families"), { ids });
    const more = found.ids.length - ids.length;
    if (more === 0) toast.info("Their families are selected already.");
    else toast.success(`${plural(more, "more item")} of their families selected`);
    onSelect(found.ids);
  };
  return (
    <div className="flex flex-wrap items-center gap-2 rounded-md bg-petrol-wash px-3 py-1.5 text-sm">
      <b className="num">{plural(ids.length, "item")} selected</b>
      <Button onClick={() => onAction("item-bid")}>Set bid</Button>
      <Button onClick={() => onAction("exclude")}>Exclude</Button>
      <Button onClick={onLaunch}>Launch</Button>
      <Button onClick={() => onAction("solo")}>Own campaign</Button>
      <Button onClick={onShelf}>Put on a shelf</Button>
      <Button onClick={() => void addFamilies().catch(toastError)}>Add their families</Button>
      <Button onClick={() => onAction("note")}>Add note</Button>
      <Button onClick={onCopy}>Copy</Button>
      <Button look="quiet" onClick={() => onSelect([])}>
        Clear
      </Button>
    </div>
  );
}

"use client";

import { useMemo, useState } from "react";
import { toast } from "sonner";
import Papa from "papaparse";
import { detectDelimiter } from "@/core/catalogue/detect";
import { foldHeading } from "@/core/catalogue/fields";
import { formatCount, plural } from "@/core/kit/format";
import { parseMoney } from "@/core/kit/money";
import { listOfIds } from "@/core/shelves/lists";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { useEdit } from "../use-edit";

/** What a pasted column can be. */
const MEANINGS: Record<string, "bid" | "cost" | "fee" | "note"> = {
  bid: "bid",
  maxcpc: "bid",
  cpc: "bid",
  cost: "cost",
  itemcost: "cost",
  cogs: "cost",
  fee: "fee",
  note: "note",
  comment: "note",
};

interface Pasted {
  lines: { id: string; bid?: number; cost?: number; fee?: number; note?: string }[];
  has: Set<"bid" | "cost" | "fee" | "note">;
  /** Cells that could not be read, with their row. */
  unread: string[];
}

/** Takes apart what was copied from a spreadsheet: IDs, perhaps with a header that names bids, costs or notes. */
export function readPasted(text: string): Pasted {
  const delimiter = text.includes("\t") ? "\t" : detectDelimiter(text);
  const rows = Papa.parse<string[]>(text.trim(), { delimiter, skipEmptyLines: "greedy" }).data;
  const head = (rows[0] ?? []).map(foldHeading);
  const meanings = head.map((name) => MEANINGS[name]);
  // Without columns that say more it is a list of IDs, which is read as lists are everywhere.
  if (!meanings.some(Boolean)) {
    return { lines: listOfIds(text, () => false).map(({ id }) => ({ id })), has: new Set(), unread: [] };
  }
  const idAt = head.findIndex((name) => ["id", "itemid", "sku", "productid"].includes(name));
  const has = new Set<"bid" | "cost" | "fee" | "note">();
  const unread: string[] = [];
  const lines = rows.slice(1).flatMap((cells, i) => {
    const id = (cells[Math.max(0, idAt)] ?? "").trim();
    if (id === "") return [];
    const line: Pasted["lines"][number] = { id };
    meanings.forEach((meaning, at) => {
      const cell = (cells[at] ?? "").trim();
      if (!meaning || cell === "") return;
      if (meaning === "note") line.note = cell;
      else {
        const amount = parseMoney(cell);
        if (!amount.ok) return void unread.push(`row ${i + 2}: ${cell}`);
        line[meaning] = amount.mills;
      }
      has.add(meaning);
    });
    return [line];
  });
  return { lines, has, unread };
}

/** Pastes a list from a spreadsheet: IDs to select, or with named columns bids, costs and notes to set. */
export function PasteDialog({
  open,
  onClose,
  onSelect,
}: {
  open: boolean;
  onClose: () => void;
  onSelect: (ids: string[]) => void;
}) {
  return (
    <Dialog open={open} onClose={onClose} title="Paste from a spreadsheet" wide>
      {open && <PasteForm onClose={onClose} onSelect={onSelect} />}
    </Dialog>
  );
}

function PasteForm({ onClose, onSelect }: { onClose: () => void; onSelect: (ids: string[]) => void }) {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const refresh = useRefresh();
  const edit = useEdit(true);
  const [text, setText] = useState("");
  const [match, setMatch] = useState<{ of: string; known: Set<string>; unknown: string[] } | null>(null);
  const pasted = useMemo(() => readPasted(text), [text]);
  const isMatched = match?.of === text;
  const check = async () => {
    const ids = pasted.lines.map(({ id }) => id);
    const { known, unknown } = await apiSend<{ known: string[]; unknown: string[] }>(apiPath("item-ids/match"), {
      ids,
    });
    setMatch({ of: text, known: new Set(known), unknown });
  };
  const known = isMatched ? pasted.lines.filter(({ id }) => match.known.has(id)) : [];
  const apply = async () => {
    // The last of several bids for one item counts, as in a spreadsheet that is read from top to bottom.
    const bids = new Map(known.flatMap(({ id, bid }) => (bid === undefined ? [] : [[id, bid] as const])));
    const amounts = [...bids].map(([key, mills]) => ({ key, mills }));
    if (amounts.length > 0 && !(await edit({ action: "amounts", of: "item-bid", amounts }))) return;
    const costs = known.filter(({ cost, fee }) => cost !== undefined || fee !== undefined);
    if (costs.length > 0) {
      const lines = costs.map(({ id, cost, fee }) => ({ id, cost: cost ?? null, fee: fee ?? null }));
      await apiSend(apiPath("costs"), { lines }, "PUT");
      toast.success(`Costs of ${plural(costs.length, "item")} kept`);
    }
    const notes = known.flatMap(({ id, note }) => (note ? [{ id, text: note }] : []));
    if (notes.length > 0) {
      await apiSend(apiPath("notes/many"), { lines: notes });
      toast.success(`${plural(notes.length, "note")} kept`);
    }
    onClose();
    await refresh();
  };
  const asks = [...pasted.has].join(", ");
  return (
    <div className="space-y-3">
      <p className="text-soft">
        Item IDs, one a line, to select them. With a header row, columns named <b>bid</b>, <b>cost</b>, <b>fee</b> or{" "}
        <b>note</b> are set for each item; amounts in {currency}.
      </p>
      <textarea
        aria-label="Pasted cells"
        autoFocus
        rows={9}
        className="w-full rounded-md border border-line bg-surface p-2 font-mono text-xs"
        placeholder={"id\tbid\nQ00010\t0.45\nQ00020\t0.60"}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {pasted.lines.length > 0 && (
        <p role="status" className="text-sm num">
          {plural(pasted.lines.length, "row")}
          {asks && `, with ${asks}`}
          {pasted.unread.length > 0 && (
            <span className="font-semibold text-ember">
              {" "}
              · not readable and left out: {pasted.unread.slice(0, 3).join("; ")}
              {pasted.unread.length > 3 && ` and ${formatCount(pasted.unread.length - 3)} more`}
            </span>
          )}
          {isMatched && (
            <>
              {" "}
              · {formatCount(known.length)} in the catalogue
              {match.unknown.length > 0 && (
                <span className="font-semibold text-ember">
                  , {formatCount(match.unknown.length)} not: {match.unknown.slice(0, 5).join(", ")}
                  {match.unknown.length > 5 ? " …" : ""}
                </span>
              )}
            </>
          )}
        </p>
      )}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        {!isMatched ? (
          <Button look="ember" disabled={pasted.lines.length === 0} onClick={() => void check().catch(toastError)}>
            Look them up
          </Button>
        ) : (
          <>
            <Button
              look={pasted.has.size > 0 ? "plain" : "ember"}
              disabled={known.length === 0}
              onClick={() => {
                onSelect(known.map(({ id }) => id));
                onClose();
              }}
            >
              Select {plural(known.length, "item")}
            </Button>
            {pasted.has.size > 0 && (
              <Button look="ember" disabled={known.length === 0} onClick={() => void apply().catch(toastError)}>
                Set {asks}
              </Button>
            )}
          </>
        )}
      </div>
    </div>
  );
}

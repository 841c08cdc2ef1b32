"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { parseMoney } from "@/core/kit/money";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";

/** Lines of a spreadsheet as bids: what it is in the first cell, the amount in the last. */
export function readBids(text: string): { lines: { key: string; mills: number }[]; unread: string[] } {
  const found = new Map<string, number>();
  const unread: string[] = [];
  for (const line of text.split(/\r?\n/)) {
    const cells = line.split(/\t|;/).map((cell) => cell.trim());
    if (cells.every((cell) => cell === "")) continue;
    const amount = parseMoney(cells.at(-1)!);
    if (cells.length < 2 || cells[0] === "" || !amount.ok || amount.mills <= 0) unread.push(line.trim());
    else found.set(cells[0]!, amount.mills);
  }
  return { lines: [...found].map(([key, mills]) => ({ key, mills })), unread };
}

/** Takes bids out of a spreadsheet: an ID, key or name, and an amount, one a line. */
export function PasteBids({
  what,
  onNext,
  onClose,
}: {
  /** What they are of, such as "items". */
  what: string;
  onNext: (lines: { key: string; mills: number }[]) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const { lines, unread } = readBids(text);
  return (
    <Dialog open onClose={onClose} title={`Paste bids of ${what}`}>
      <div className="space-y-3">
        <Field
          label="ID or name, and bid, one a line"
          hint={`${plural(lines.length, "bid")} read. Copy two columns out of a spreadsheet.`}
        >
          {(props) => (
            <textarea
              {...props}
              autoFocus
              rows={8}
              className="w-full rounded-md border border-line bg-surface p-2 text-sm num"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        {unread.length > 0 && (
          <p className="text-sm text-ember-strong">
            {plural(unread.length, "line")} not read and left: “{unread[0]!.slice(0, 60)}”
            {unread.length > 1 ? " …" : ""}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={lines.length === 0} onClick={() => onNext(lines)}>
            Look what that changes …
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

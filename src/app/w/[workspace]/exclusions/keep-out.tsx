"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select } from "@/ui/field";
import { ItemActionDialog } from "../item-actions";
import { NegativeDialog } from "../negative-dialog";

const WHAT = {
  term: "search terms",
  listing: "codes of listings",
  placement: "addresses of placements",
  item: "IDs of items",
};

/** Values typed or pasted, one a line, and then where and why they are kept out. */
export function KeepOut({ onClose }: { onClose: () => void }) {
  const [what, setWhat] = useState<keyof typeof WHAT>("term");
  const [text, setText] = useState("");
  const [isNext, setNext] = useState(false);
  const values = [...new Set(text.split(/[\r\n\t]+/).map((line) => line.trim()))].filter(Boolean);
  if (isNext && what === "item") return <ItemActionDialog action="exclude" items={values} onClose={onClose} />;
  if (isNext && what !== "item") {
    return <NegativeDialog level={what} values={values} within={null} onClose={onClose} onDone={onClose} />;
  }
  return (
    <Dialog open onClose={onClose} title="Keep out">
      <div className="space-y-3">
        <Field label="They are">
          {(props) => (
            <Select {...props} value={what} onChange={(event) => setWhat(event.target.value as typeof what)}>
              {Object.entries(WHAT).map(([key, label]) => (
                <option key={key} value={key}>
                  {label}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="One a line" hint={`${plural(values.length, "line")}; copy a column out of a spreadsheet.`}>
          {(props) => (
            <textarea
              {...props}
              rows={8}
              className="w-full rounded-md border border-line bg-surface p-2 text-sm"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={values.length === 0} onClick={() => setNext(true)}>
            Where and why
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

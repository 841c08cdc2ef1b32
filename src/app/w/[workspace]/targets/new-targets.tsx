"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select } from "@/ui/field";
import { AimDialog } from "../aim-dialog";

/** Terms or listings typed or pasted, one a line, and then where and how to aim at them. */
export function NewTargets({ onClose }: { onClose: () => void }) {
  const [what, setWhat] = useState<"keyword" | "listing">("keyword");
  const [text, setText] = useState("");
  const [isNext, setNext] = useState(false);
  const values = [...new Set(text.split(/[\r\n\t]+/).map((line) => line.trim()))].filter(Boolean);
  if (isNext) return <AimDialog start={{ what, values }} onClose={onClose} />;
  return (
    <Dialog open onClose={onClose} title="Aim at terms or listings">
      <div className="space-y-3">
        <Field label="They are">
          {(props) => (
            <Select {...props} value={what} onChange={(event) => setWhat(event.target.value as typeof what)}>
              <option value="keyword">search terms</option>
              <option value="listing">codes of listings</option>
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
            Where and how
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

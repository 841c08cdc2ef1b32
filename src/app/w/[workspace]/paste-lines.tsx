"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select } from "@/ui/field";

/** What pasted lines can be, and how that is said. */
type Kinds<K extends string> = Record<K, string>;

/** Asks for values, one a line as a column of a spreadsheet has them, and for what they are; each is given on once. */
export function PasteLines<K extends string>({
  title,
  next,
  kinds,
  first,
  onNext,
  onClose,
}: {
  title: string;
  /** The verb that goes on. */
  next: string;
  kinds: Kinds<K>;
  /** What was given before, where somebody comes back to it. */
  first?: { kind: K; text: string } | null;
  onNext: (kind: K, values: string[], text: string) => void;
  onClose: () => void;
}) {
  const names = Object.keys(kinds) as K[];
  const [kind, setKind] = useState<K>(first?.kind ?? names[0]!);
  const [text, setText] = useState(first?.text ?? "");
  const values = [...new Set(text.split(/[\r\n\t]+/).map((line) => line.trim()))].filter(Boolean);
  return (
    <Dialog open onClose={onClose} title={title}>
      <div className="space-y-3">
        <Field label="They are">
          {(props) => (
            <Select {...props} value={kind} onChange={(event) => setKind(event.target.value as K)}>
              {names.map((name) => (
                <option key={name} value={name}>
                  {kinds[name]}
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
          <Button look="ember" disabled={values.length === 0} onClick={() => onNext(kind, values, text)}>
            {next}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

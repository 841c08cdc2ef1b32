"use client";

import { useRef, useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { GivenPlaces } from "@/server/channel/paste-places";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** What the dialog takes in, in words. */
export interface Wanted {
  title: string;
  label: string;
  hint: string;
  placeholder?: string;
  /** What one line is. */
  one: string;
  /** Whether the first line has headings, which stay above the lines that are to be put right. */
  isHeaded: boolean;
}

/** Lines of a spreadsheet, listings each, as the channel and reports do not tell them. */
export const LISTINGS: Wanted = {
  ...{ title: "Paste listings", label: "Listing, title, category, price, rating, reviews", one: "listing" },
  ...{ hint: "Only the first column is needed.", isHeaded: false },
};

/** A rate card: what clicks cost for terms, listings and items. */
export const RATE_CARD: Wanted = {
  ...{ title: "Take a rate card in", label: "Lines with headings", one: "line", isHeaded: true },
  hint: "The first line names the columns: term, listing or item; then any of category, low, typical, high, views a month, title, price, rating, reviews, role.",
  placeholder: "term\ttypical\tviews a month\ngarden hose 30 m\t0.42\t1900",
};

/** Takes in what somebody knows of listings and prices, pasted or out of a file; what can't be read stays to be put right. */
export function GivePlaces({ wanted, onClose }: { wanted: Wanted; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const file = useRef<HTMLInputElement>(null);
  const [text, setText] = useState("");
  const [origin, setOrigin] = useState<"pasted" | "file">("pasted");
  const [told, setTold] = useState<GivenPlaces | null>(null);
  const [busy, setBusy] = useState(false);
  const take = async () => {
    setBusy(true);
    try {
      const done = await apiSend<GivenPlaces>(apiPath("listings"), { text, origin });
      if (done.taken > 0) toast.success(`${plural(done.taken, wanted.one)} taken in`);
      await refresh();
      setTold(done);
      const lines = text.split(/\r?\n/);
      if (done.faults.length === 0 && done.leftAlone.length === 0) onClose();
      else if (done.faults.length > 0) {
        const head = wanted.isHeaded ? [lines.find((line) => line.trim() !== "") ?? ""] : [];
        setText([...head, ...done.faults.map(({ line }) => lines[line - 1] ?? "")].join("\n"));
      }
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title={wanted.title} wide>
      <div className="space-y-3">
        <Field label={wanted.label} hint={wanted.hint}>
          {(props) => (
            <textarea
              {...props}
              rows={10}
              placeholder={wanted.placeholder}
              className="w-full rounded-md border border-line bg-surface p-2 font-mono text-xs"
              value={text}
              onChange={(event) => {
                setText(event.target.value);
                setOrigin("pasted");
              }}
            />
          )}
        </Field>
        <input
          ref={file}
          type="file"
          aria-label="File"
          accept=".csv,.tsv,.txt"
          className="hidden"
          onChange={(event) => {
            const [chosen] = event.target.files ?? [];
            if (!chosen) return;
            void chosen.text().then((read) => {
              setText(read);
              setOrigin("file");
              setTold(null);
            });
          }}
        />
        {told && (told.faults.length > 0 || told.leftAlone.length > 0) && (
          <div role="alert" className="max-h-40 overflow-y-auto text-sm">
            <p>{plural(told.taken, wanted.one)} taken in.</p>
            {told.leftAlone.length > 0 && <p>Columns not known, so left alone: {told.leftAlone.join(", ")}.</p>}
            <ul className="text-ember">
              {told.faults.map(({ line, message }) => (
                <li key={line}>
                  Line {line}: {message}
                </li>
              ))}
            </ul>
          </div>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={() => file.current?.click()}>Choose a file</Button>
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={busy || text.trim() === ""} onClick={() => void take()}>
            Take them in
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

"use client";

import { useRef, useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { GivenPlaces } from "@/server/channel/paste-places";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

/** Takes a rate card in: what clicks cost for terms, listings and items, pasted or out of a file. */
export function GivePlaces({ onClose }: { onClose: () => void }) {
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
      if (done.taken > 0) toast.success(`${plural(done.taken, "line")} taken in`);
      await refresh();
      setTold(done);
      if (done.faults.length === 0 && done.leftAlone.length === 0) onClose();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title="Take a rate card in" wide>
      <div className="space-y-3">
        <Field
          label="Lines with headings"
          hint="The first line names the columns: term, listing or item; then any of category, low, typical, high, views a month, title, price, rating, reviews, role."
        >
          {(props) => (
            <textarea
              {...props}
              rows={10}
              placeholder={"term\ttypical\tviews a month\ngarden hose 30 m\t0.42\t1900"}
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
          aria-label="Rate card file"
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
        {told && (
          <div role="alert" className="max-h-40 overflow-y-auto text-sm">
            <p>{plural(told.taken, "line")} taken in.</p>
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

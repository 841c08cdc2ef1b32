"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { listEntries } from "@/core/kit/words";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { sayDone } from "../../../../_lib/undo";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

interface Words {
  words: string[];
  isOwn: boolean;
}

/** The words by which a placement counts as unsafe: those that ship, or a list of one's own. */
export function UnsafeDialog({ onClose }: { onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const kept = useApi<Words>(apiPath("placements/unsafe-words"));
  const [typed, setTyped] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const text = typed ?? (kept.data?.words ?? []).join("\n");
  const send = (words: string | null) => apiSend<Words>(apiPath("placements/unsafe-words"), { words }, "PUT");
  const keep = async (words: string | null) => {
    const before = kept.data?.isOwn ? kept.data.words.join("\n") : null;
    setBusy(true);
    try {
      const now = await send(words);
      sayDone(`${plural(now.words.length, "word")} ${now.words.length === 1 ? "counts" : "count"} as unsafe`, () =>
        send(before).then(refresh),
      );
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog open onClose={onClose} title="Words that are not fit">
      {kept.data === undefined ? (
        <Loading what="the words" />
      ) : (
        <div className="space-y-3">
          <Field
            label="One a line, or with commas"
            hint={`${plural(listEntries(text).length, "word")}; words of five letters and more count inside longer ones too.`}
          >
            {(props) => (
              <textarea
                {...props}
                rows={12}
                className="w-full rounded-md border border-line bg-surface p-2 text-sm"
                value={text}
                onChange={(event) => setTyped(event.target.value)}
              />
            )}
          </Field>
          <div className="flex justify-end gap-2">
            {kept.data.isOwn && (
              <Button disabled={busy} onClick={() => void keep(null)}>
                Back to the list that ships
              </Button>
            )}
            <Button onClick={onClose}>Leave it</Button>
            <Button look="ember" disabled={busy || typed === null} onClick={() => void keep(text)}>
              Keep these words
            </Button>
          </div>
        </div>
      )}
    </Dialog>
  );
}

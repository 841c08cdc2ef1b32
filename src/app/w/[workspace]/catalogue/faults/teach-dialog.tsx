"use client";

import { useState } from "react";
import { toast } from "sonner";
import { AVAILABILITIES, type Availability } from "@/core/catalogue/availability";
import { plural } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Select } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

/** Says what the shop's own availability words mean. */
export function TeachDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [meanings, setMeanings] = useState<Record<string, Availability>>({});
  const words = useApi<{ word: string; items: number }[]>(open ? apiPath("availability-words") : null);
  const save = async () => {
    await apiSend(apiPath("availability-words"), { words: meanings }, "PUT");
    toast.success("Words learned. They count from the next reading of the feed on.");
    onClose();
    await refresh();
  };
  return (
    <Dialog open={open} onClose={onClose} title="What do these words mean?">
      {words.isPending && open && <Loading what="the words" />}
      <ul className="space-y-2">
        {words.data?.map(({ word, items }) => (
          <li key={word} className="grid grid-cols-[1fr_180px] items-center gap-3">
            <span>
              “{word}” <span className="text-soft num">· {plural(items, "item")}</span>
            </span>
            <Select
              aria-label={`Meaning of ${word}`}
              value={meanings[word] ?? ""}
              onChange={(event) => setMeanings({ ...meanings, [word]: event.target.value as Availability })}
            >
              <option value="">Leave open</option>
              {AVAILABILITIES.map((availability) => (
                <option key={availability}>{availability}</option>
              ))}
            </Select>
          </li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          look="ember"
          disabled={Object.values(meanings).filter(Boolean).length === 0}
          onClick={() => void save().catch(toastError)}
        >
          Learn them
        </Button>
      </div>
    </Dialog>
  );
}

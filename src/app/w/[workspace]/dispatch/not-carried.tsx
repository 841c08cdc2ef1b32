"use client";

import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import type { NotCarried as Line } from "@/core/dispatch/carries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ErrorNote, Loading } from "@/ui/notes";
import { useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

/** Records listed. */
const MOST_LISTED = 500;

/** Every record of the basket that the channel can't carry, with why; those that it will not take can be taken out. */
export function NotCarried({ onRemove }: { onRemove: (keys: string[]) => Promise<void> }) {
  const apiPath = useApiPath();
  const [isOpen, setOpen] = useState(false);
  const found = useApi<{ total: number; whole: number; records: Line[] }>(
    isOpen ? apiPath(`basket/not-carried?limit=${MOST_LISTED}`) : null,
  );
  const whole = found.data?.records.filter(({ isWhole }) => isWhole) ?? [];
  return (
    <>
      <Button look="quiet" className="mt-1" onClick={() => setOpen(true)}>
        List what the channel can&rsquo;t carry
      </Button>
      <Dialog open={isOpen} onClose={() => setOpen(false)} title="What the channel can’t carry" wide>
        {found.error && <ErrorNote error={found.error.failure} />}
        {!found.data && !found.error && <Loading what="the list" />}
        {found.data && (
          <div className="space-y-3">
            <div className="max-h-96 overflow-y-auto" tabIndex={0} role="region" aria-label="Records">
              <table className="w-full text-sm num" aria-label="What the channel can’t carry">
                <thead className="sticky top-0 bg-surface text-left text-soft">
                  <tr>
                    <th className="py-1 font-normal">Record</th>
                    <th className="font-normal">Why</th>
                    <th className="w-28 font-normal">Becomes</th>
                  </tr>
                </thead>
                <tbody>
                  {found.data.records.map(({ key, name, why, isWhole }) => (
                    <tr key={`${key}/${why}`} className="border-t border-line/60 align-top [&>td]:py-1">
                      <td className="pr-3">{name}</td>
                      <td className="pr-3">{why}</td>
                      <td>{isWhole ? <b className="text-ember">not taken</b> : "taken in part"}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {found.data.total > found.data.records.length && (
                <p className="py-1 text-soft">and {formatCount(found.data.total - found.data.records.length)} more</p>
              )}
            </div>
            <div className="flex justify-end gap-2">
              <Button onClick={() => setOpen(false)}>Close</Button>
              {whole.length > 0 && (
                <Button
                  look="ember"
                  onClick={() => {
                    setOpen(false);
                    void onRemove([...new Set(whole.map(({ key }) => key))]);
                  }}
                >
                  Take {plural(new Set(whole.map(({ key }) => key)).size, "record")} out
                </Button>
              )}
            </div>
          </div>
        )}
      </Dialog>
    </>
  );
}

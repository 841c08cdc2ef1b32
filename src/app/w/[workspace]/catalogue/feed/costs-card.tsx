"use client";

import { useRef, useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import type { CostsRead } from "@/server/catalogue/costs";
import { Button } from "@/ui/button";
import { Surface } from "@/ui/page";
import { apiDelete, apiUpload, toastError } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

/** Costs and fees from a file beside the feed. */
export function CostsCard({ covered }: { covered: number }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const input = useRef<HTMLInputElement>(null);
  const [read, setRead] = useState<CostsRead | null>(null);
  const upload = async (file: File) => {
    setRead(await apiUpload<CostsRead>(apiPath("costs"), file));
    await refresh();
  };
  const forget = async () => {
    await apiDelete(apiPath("costs"));
    setRead(null);
    await refresh();
  };
  return (
    <Surface title="Costs and fees">
      <p className="text-sm text-soft">
        {covered > 0
          ? `A costs file covers ${plural(covered, "item")}; the feed's own costs count for the others.`
          : "Taken from the feed. A file with the columns id, cost and fee comes before it."}{" "}
        They give each item its break-even return.
      </p>
      {read && (
        <p role="status" className="mt-2 text-sm num">
          {formatCount(read.matched)} of {plural(read.rows, "row")} matched.
          {read.unmatchedCount > 0 && (
            <span className="font-semibold text-ember">
              {" "}
              {formatCount(read.unmatchedCount)} not in the catalogue: {read.unmatched.slice(0, 4).join(", ")}
              {read.unmatchedCount > 4 ? " …" : ""}.
            </span>
          )}
          {read.unreadableCount > 0 && (
            <span className="font-semibold text-ember">
              {" "}
              Not readable:{" "}
              {read.unreadable
                .slice(0, 3)
                .map(({ row, text }) => `row ${row} “${text}”`)
                .join(", ")}
              .
            </span>
          )}
        </p>
      )}
      <div className="mt-3 flex gap-2">
        <Button onClick={() => input.current?.click()}>Upload a costs file</Button>
        {covered > 0 && (
          <Button look="quiet" onClick={() => void forget().catch(toastError)}>
            Forget it
          </Button>
        )}
      </div>
      <input
        ref={input}
        type="file"
        aria-label="Costs file"
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void upload(file).catch(toastError);
          event.target.value = "";
        }}
      />
    </Surface>
  );
}

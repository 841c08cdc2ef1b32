"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import type { TermOrListing } from "@/core/targets/place-kind";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ErrorNote, Loading } from "@/ui/notes";
import { ApiError, useAsk } from "../../_lib/api";
import { useApiPath } from "../../_lib/workspace";
import { AimDialog } from "./aim-dialog";
import { UnsureLines, type Unsure } from "./unsure-lines";

/** Aims at lines of a report or a paste: terms and pages each in a campaign of their kind, and what could be either is asked. */
export function AimAt({ values, onClose, onDone }: { values: string[]; onClose: () => void; onDone?: () => void }) {
  const apiPath = useApiPath();
  const told = useAsk<{ kinds: (TermOrListing | null)[] }>(apiPath("targets/kinds"), { values });
  const [unsure, setUnsure] = useState<Unsure>("out");
  const [open, setOpen] = useState<TermOrListing | null>(null);
  const [done, setDone] = useState<readonly TermOrListing[]>([]);
  const kinds = told.data?.kinds ?? [];
  const of = (kind: TermOrListing | null) => values.filter((_, i) => kinds[i] === kind);
  const either = of(null);
  const all = {
    term: [...of("term"), ...(unsure === "term" ? either : [])],
    listing: [...of("listing"), ...(unsure === "listing" ? either : [])],
  };
  const left = (["term", "listing"] as const).filter((kind) => all[kind].length > 0 && !done.includes(kind));
  const aim = (kind: TermOrListing) => (
    <AimDialog
      start={{ what: kind === "term" ? "keyword" : "listing", values: all[kind] }}
      onClose={() => (left.length > 1 || either.length > 0 ? setOpen(null) : onClose())}
      onDone={() => {
        setDone([...done, kind]);
        if (left.length > 1) return;
        onDone?.();
        onClose();
      }}
    />
  );
  if (open) return aim(open);
  if (told.data && left.length === 1 && either.length === 0 && done.length === 0) return aim(left[0]!);
  return (
    <Dialog open onClose={onClose} title={`Aim at ${plural(values.length, "line")}`}>
      <div className="space-y-3 text-sm">
        {told.error instanceof ApiError && <ErrorNote error={told.error.failure} />}
        {told.isPending && <Loading what="what these lines are" />}
        {told.data && (
          <>
            <p className="num">
              {plural(of("term").length, "search term")} and {plural(of("listing").length, "page")} of listings. Each
              kind goes into campaigns of its own.
            </p>
            <UnsureLines lines={either} value={unsure} onChange={setUnsure} />
            <div className="flex justify-end gap-2">
              <Button onClick={onClose}>{done.length > 0 ? "Leave the rest" : "Leave it"}</Button>
              {left.map((kind) => (
                <Button key={kind} look="ember" onClick={() => setOpen(kind)}>
                  Aim at {plural(all[kind].length, kind === "term" ? "term" : "page")}
                </Button>
              ))}
            </div>
          </>
        )}
      </div>
    </Dialog>
  );
}

"use client";

import { plural } from "@/core/kit/format";
import type { AsideRow, Diagnostic } from "@/server/catalogue/feeds";
import { buttonClasses } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";

const SHOWN_ROWS = 20;

/** What is wrong with the feed: each fault with its count, why it matters and the repair; rows aside to download. */
export function DiagnosticsDialog({
  open,
  onClose,
  faults,
  notices,
  setAside,
}: {
  open: boolean;
  onClose: () => void;
  faults: Diagnostic[];
  notices: string[];
  setAside: number;
}) {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const aside = useApi<{ headings: string[]; rows: AsideRow[] }>(
    open && setAside > 0 ? apiPath(`set-aside?limit=${SHOWN_ROWS}`) : null,
  );
  return (
    <Dialog open={open} onClose={onClose} title="What is wrong with the feed" wide>
      {notices.map((notice) => (
        <p key={notice} className="mb-2 rounded-md bg-petrol-wash px-3 py-1.5">
          {notice}
        </p>
      ))}
      {faults.length === 0 && <p className="text-soft">No faults found in the last reading.</p>}
      <ul className="divide-y divide-line">
        {faults.map((fault) => (
          <li key={fault.code} className="grid grid-cols-[90px_1fr] gap-3 py-2">
            <span className="text-right num">
              <b>{fault.count}</b> <span className="text-soft">{fault.count === 1 ? "row" : "rows"}</span>
            </span>
            <span>
              <b>{fault.label}</b> <span className="text-soft">· {fault.grave ? "set aside" : "kept, to repair"}</span>
              <br />
              {fault.why} <span className="text-soft">{fault.repair}</span>
            </span>
          </li>
        ))}
      </ul>
      {setAside > 0 && (
        <section className="mt-4">
          <div className="flex items-center justify-between">
            <h3 className="font-semibold">{plural(setAside, "row")} set aside</h3>
            <a className={buttonClasses("plain")} href={`/api/v1/${slug}/set-aside.csv`} download>
              Download all as CSV
            </a>
          </div>
          <ul className="mt-2 divide-y divide-line text-sm">
            {aside.data?.rows.map(({ row, reasons, cells }) => (
              <li key={row} className="py-1">
                <span className="font-mono text-xs">row {row}</span> · <b>{reasons.join(", ")}</b>
                <span className="block truncate text-soft">{cells.join(" · ")}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </Dialog>
  );
}

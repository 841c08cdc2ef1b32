"use client";

import { plural } from "@/core/kit/format";
import type { CopyPlan } from "@/core/copy/copy-plan";
import type { AdState } from "@/core/copy/write-plan";
import type { Cause } from "@/core/copy/faults";
import type { CopyGroupLine } from "@/server/copy/proof";
import type { LineFate } from "@/server/copy/look";
import { Dialog } from "@/ui/dialog";
import { ErrorNote, Loading } from "@/ui/notes";
import { useAsk } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

/** A rung from 1 on, or what became of a line. */
export type BehindFate = number | Exclude<LineFate, "written">;

/** The ad groups behind a number. */
export interface Behind {
  title: string;
  of:
    | { what: "all" }
    | { what: "state"; state: AdState }
    | { what: "cause"; cause: Cause; text?: string }
    | { what: "line"; design: string; at: number; fate: BehindFate };
}

const SHOWN = 200;

/** Opens a number: which ad groups it counts, and what they say. */
export function GroupsDialog({ plan, behind, onClose }: { plan: CopyPlan; behind: Behind; onClose: () => void }) {
  const apiPath = useApiPath();
  const found = useAsk<{ total: number; groups: CopyGroupLine[] }>(apiPath("copy-plans/groups"), {
    ...{ plan, of: behind.of, limit: SHOWN },
  });
  return (
    <Dialog open wide onClose={onClose} title={behind.title}>
      {found.error && <ErrorNote error={found.error.failure} />}
      {!found.data && !found.error && <Loading what="the ad groups" />}
      {found.data && (
        <>
          <p className="mb-2 text-sm text-soft num">
            {plural(found.data.total, "ad group")}
            {found.data.total > SHOWN && `, the first ${SHOWN} of them`}
          </p>
          <div className="max-h-[55vh] overflow-auto" tabIndex={0} role="region" aria-label="Ad groups">
            <table className="w-full text-sm">
              <thead className="text-left text-xs text-soft">
                <tr>
                  <th className="py-1 pr-3 font-medium">Item</th>
                  <th className="py-1 font-medium">What it says</th>
                </tr>
              </thead>
              <tbody>
                {found.data.groups.map((group) => (
                  <tr key={group.unit} className="border-t border-line align-top">
                    <td className="max-w-72 py-1.5 pr-3">
                      <span className="block truncate" title={group.title}>
                        {group.title || group.name}
                      </span>
                      <span className="font-mono text-xs text-soft">{group.id}</span>
                    </td>
                    <td className="py-1.5">{group.text}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
    </Dialog>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { Edited } from "@/server/account/edits";
import type { HarvestLook } from "@/server/targets/ledger";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { ApiError, apiSend, toastError, useAsk } from "../../../../_lib/api";
import { sayDone } from "../../../../_lib/undo";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { MoneyCell } from "../../money-cell";
import { useChange } from "../../use-edit";

/** Makes an exact keyword or a listing target of each of some places: with its best items, a bid of its own, and where it is kept out. */
export function HarvestDialog({
  places,
  onClose,
  onDone,
}: {
  places: { what: "term" | "listing"; text: string }[];
  onClose: () => void;
  onDone: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(true);
  const { currency } = useWorkspace();
  const [keepOut, setKeepOut] = useState(false);
  const [bids, setBids] = useState<Record<string, number>>({});
  const [busy, setBusy] = useState(false);
  const body = { places, keepOut, bids };
  const look = useAsk<HarvestLook>(apiPath("ledger/harvest/preview"), body, { placeholderData: (before) => before });
  const money = (mills: number) => formatMoney(mills, currency);
  const keep = async () => {
    setBusy(true);
    try {
      const { changes, diff } = await change<Edited>("ledger/harvest", body);
      if (changes === 0) toast.info("These are aimed at by name already.");
      else {
        sayDone(`Harvested ${plural(places.length, "line")}: ${plural(changes, "change")} in the basket`, () =>
          apiSend(apiPath("account/edits/take-back"), diff).then(refresh),
        );
      }
      onDone();
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const found = look.data;
  return (
    <Dialog open onClose={onClose} title={`Harvest ${plural(places.length, "line")}`} wide>
      <div className="space-y-3 text-sm">
        {look.error instanceof ApiError && <ErrorNote error={look.error.failure} />}
        {look.isPending && <Loading what="what that would make" />}
        {found && (
          <>
            <div className="max-h-80 overflow-y-auto">
              <table className="w-full num" aria-label="What is made">
                <thead className="sticky top-0 bg-surface">
                  <tr className="text-left text-xs text-soft">
                    <th className="font-normal">Exact keyword or listing target</th>
                    <th className="font-normal">Shows</th>
                    <th className="text-right font-normal">Paid a click</th>
                    <th className="pl-3 text-right font-normal">Worth</th>
                    <th className="pl-3 text-right font-normal">Bid</th>
                  </tr>
                </thead>
                <tbody>
                  {found.made.map(({ key, place, items, bid, paid, worth, keptOutOf }) => (
                    <tr key={key} className="border-t border-line/60 align-top">
                      <td className="py-1 pr-2">
                        {place}
                        {keptOutOf.length > 0 && (
                          <span className="block text-xs text-soft">kept out of {keptOutOf.join(", ")}</span>
                        )}
                      </td>
                      <td className="py-1 pr-2 text-soft" title={items.map(({ title }) => title).join("\n")}>
                        {items.length === 1 ? items[0]!.title : plural(items.length, "item")}
                      </td>
                      <td className="py-1 text-right">{paid === null ? "–" : money(Math.round(paid))}</td>
                      <td className="py-1 pl-3 text-right">{worth === null ? "–" : money(Math.round(worth))}</td>
                      <td className="py-1 pl-3 text-right font-semibold">
                        <MoneyCell
                          label={`Bid of ${place}`}
                          value={bid}
                          onSave={(mills) => {
                            setBids({ ...bids, [key]: mills });
                            return Promise.resolve(true);
                          }}
                        />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <Checkbox
              label="Keep each out of the campaigns its clicks came from, so that its own bid counts"
              checked={keepOut}
              onChange={({ target }) => setKeepOut(target.checked)}
            />
            {found.leftOut.length > 0 && (
              <ul className="text-ember">
                {found.leftOut.slice(0, 5).map(({ place, why }) => (
                  <li key={place}>
                    ▾ {place} is left out: {why}.
                  </li>
                ))}
                {found.leftOut.length > 5 && <li>and {plural(found.leftOut.length - 5, "more")}.</li>}
              </ul>
            )}
            <p role="status" className="num">
              {plural(found.changes, "change")} in the basket; daily budgets in all {money(found.budget.before)} →{" "}
              <b>{money(found.budget.after)}</b>.
            </p>
          </>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" disabled={busy || !found || look.isError} onClick={() => void keep()}>
            Put into the basket
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

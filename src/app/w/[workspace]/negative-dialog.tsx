"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { NegativesPreview } from "@/server/exclusions/negatives";
import type { AccountView } from "@/server/planogram/workbench";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { SearchSelect } from "@/ui/search-select";
import { ApiError, toastError, useApi, useAsk } from "../../_lib/api";
import { useApiPath, useDays, useRefresh, useWorkspace } from "../../_lib/workspace";
import { ReasonFields, useUsualReason } from "./reason-fields";
import { useChange } from "./use-edit";

const REVIEW_DAYS = 90;
const EVERYWHERE = "";
/** Terms told one by one. */
const MOST_SHOWN = 10;

/** Keeps terms, pages or placements out: how, where and why, with what that would have stopped before it is in the basket. */
export function NegativeDialog({
  level,
  values,
  within,
  onClose,
  onDone,
}: {
  level: "term" | "listing" | "placement";
  values: string[];
  /** The campaign or ad group that it holds in at first. */
  within: { key: string } | null;
  onClose: () => void;
  onDone: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(true);
  const { currency } = useWorkspace();
  const [days] = useDays();
  const [what, setWhat] = useState<"term" | "listing">(level === "listing" ? "listing" : "term");
  const [match, setMatch] = useState<"exact" | "phrase">("exact");
  const [scope, setScope] = useState(within?.key ?? EVERYWHERE);
  const why = useUsualReason(REVIEW_DAYS);
  const [busy, setBusy] = useState(false);
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));
  const groups = account.data?.lines.filter((line) => line.level !== "productGroup") ?? [];
  const nameOf = new Map(groups.map(({ key, name }) => [key, name]));
  const scopes = [
    { value: EVERYWHERE, label: "Everywhere" },
    ...groups.map(({ key, name, level: of, parent }) => ({
      ...{ value: key, label: of === "adGroup" ? `${nameOf.get(parent ?? "") ?? ""} · ${name}` : name },
      group: of === "campaign" ? "Campaigns" : "Ad groups",
    })),
  ];
  const body = {
    ...{ values, scope: scope === EVERYWHERE ? null : scope, ...why.asked },
    ...{ what: level === "placement" ? ("placement" as const) : what, match },
  };
  const preview = useAsk<NegativesPreview>(apiPath("negatives/preview"), body, {
    placeholderData: (before) => before,
  });
  const keep = async () => {
    setBusy(true);
    try {
      const { changes } = await change("negatives", body);
      toast.success(changes === 0 ? "That is kept out already." : `${plural(changes, "change")} in the basket`);
      onDone();
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const money = (amount: number) => formatMoney(amount, currency);
  const noun = level === "placement" ? "placement" : level === "listing" ? "page" : "term";
  return (
    <Dialog open onClose={onClose} title={`Keep ${plural(values.length, noun)} out`} wide>
      <div className="grid grid-cols-[300px_1fr] gap-6">
        <div className="space-y-3">
          {level === "term" && (
            <Field label="They are" hint="A listing’s page goes by its code, not by words.">
              {(props) => (
                <Select {...props} value={what} onChange={(event) => setWhat(event.target.value as typeof what)}>
                  <option value="term">search terms</option>
                  <option value="listing">pages of listings</option>
                </Select>
              )}
            </Field>
          )}
          {level === "term" && what === "term" && (
            <Field label="Stops">
              {(props) => (
                <Select {...props} value={match} onChange={(event) => setMatch(event.target.value as typeof match)}>
                  <option value="exact">just this term (exact)</option>
                  <option value="phrase">every term with it inside (phrase)</option>
                </Select>
              )}
            </Field>
          )}
          <div>
            <span className="mb-1 block text-sm font-medium">Where</span>
            <SearchSelect label="Where" value={scope} choices={scopes} onChange={setScope} />
          </div>
          <ReasonFields {...why} />
        </div>
        <div className="flex flex-col gap-3">
          {preview.error instanceof ApiError && <ErrorNote error={preview.error.failure} />}
          {preview.isPending && <Loading what="what it would have stopped" />}
          {preview.data && <Effect found={preview.data} noun={noun} money={money} />}
          <div className="mt-auto flex justify-end gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button look="ember" disabled={busy || !preview.data || preview.isError} onClick={() => void keep()}>
              Put into the basket
            </Button>
          </div>
        </div>
      </div>
    </Dialog>
  );
}

function Effect({ found, noun, money }: { found: NegativesPreview; noun: string; money: (amount: number) => string }) {
  const { also, others, keywords, known } = found;
  return (
    <div role="status" className="space-y-2 text-sm num">
      <p>
        Over the last {plural(found.days, "day")} it would have stopped <b>{plural(found.terms, noun)}</b> with{" "}
        {plural(found.clicks, "click")}, spend <b>{money(found.cost)}</b>, {plural(found.orders, "order")} and sales{" "}
        <b>{money(found.revenue)}</b>.
      </p>
      {known > 0 && <p className="text-soft">{formatCount(known)} of them are kept out already.</p>}
      {keywords.length > 0 && (
        <p className="font-semibold text-ember">
          ▾ It silences {plural(keywords.length, "keyword")} of your own: {keywords.slice(0, 5).join(", ")}
          {keywords.length > 5 && " …"}
        </p>
      )}
      {also.length > 0 && (
        <>
          <p>
            Beside what you picked it stops <b>{plural(others.terms, "more term")}</b>
            {others.sold > 0 ? `, ${formatCount(others.sold)} of which sold` : ""}
            {others.terms > MOST_SHOWN ? `; the first ${MOST_SHOWN}:` : ":"}
          </p>
          <table className="w-full" aria-label="Stopped as well">
            <thead>
              <tr className="text-left text-xs text-soft">
                <th className="font-normal">Term</th>
                <th className="text-right font-normal">Spend</th>
                <th className="text-right font-normal">Orders</th>
                <th className="text-right font-normal">Sales</th>
              </tr>
            </thead>
            <tbody>
              {also.slice(0, MOST_SHOWN).map(({ label, cost, orders, revenue }) => (
                <tr key={label} className="border-t border-line/60">
                  <td className="py-0.5">{label}</td>
                  <td className="text-right">{money(cost)}</td>
                  <td className="text-right">{formatCount(orders)}</td>
                  <td className="text-right">{money(revenue)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </div>
  );
}

"use client";

import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { NegativesPreview } from "@/server/exclusions/negatives";
import type { TermOrListing } from "@/core/targets/place-kind";
import type { AccountView } from "@/server/planogram/workbench";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { SearchSelect } from "@/ui/search-select";
import { ApiError, toastError, useApi, useAsk } from "../../_lib/api";
import { useApiPath, useDays, useRefresh, useWorkspace } from "../../_lib/workspace";
import { NegativeEffect } from "./negative-effect";
import { ReasonFields, useUsualReason, type Reason } from "./reason-fields";
import { UnsureLines, type Unsure } from "./unsure-lines";
import { useChange } from "./use-edit";

const REVIEW_DAYS = 90;
const EVERYWHERE = "";
/** Keeps terms, pages or placements out: how, where and why, with what that would have stopped before it is in the basket. */
export function NegativeDialog({
  level,
  values,
  within,
  reason,
  onClose,
  onDone,
}: {
  level: "term" | "listing" | "placement";
  values: string[];
  /** The campaign or ad group that it holds in at first. */
  within: { key: string } | null;
  /** Why, to begin with; wasteful where nothing is given. */
  reason?: Reason;
  onClose: () => void;
  onDone: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(true);
  const { currency } = useWorkspace();
  const [days] = useDays();
  const told = useAsk<{ kinds: (TermOrListing | null)[] }>(
    apiPath("targets/kinds"),
    { values },
    { enabled: level === "term" },
  );
  const kinds = told.data?.kinds ?? [];
  const count = (kind: TermOrListing | null) => kinds.filter((one) => one === kind).length;
  const unsureOnes = values.filter((_, i) => kinds[i] === null);
  const [unsure, setUnsure] = useState<Unsure>("out");
  const [match, setMatch] = useState<"exact" | "phrase">("exact");
  const [scope, setScope] = useState(within?.key ?? EVERYWHERE);
  const why = useUsualReason(REVIEW_DAYS, reason);
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
    ...{ scope: scope === EVERYWHERE ? null : scope, ...why.asked },
    values: unsure === "out" ? values.filter((value) => !unsureOnes.includes(value)) : values,
    ...{ what: level === "term" ? ("told" as const) : level, match },
    ...(unsure === "out" ? {} : { unsure }),
  };
  const isTold = level !== "term" || told.data !== undefined;
  const preview = useAsk<NegativesPreview>(apiPath("negatives/preview"), body, {
    enabled: isTold && body.values.length > 0,
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
  const [terms, pages] = [
    count("term") + (unsure === "term" ? unsureOnes.length : 0),
    count("listing") + (unsure === "listing" ? unsureOnes.length : 0),
  ];
  const noun = level === "placement" ? "placement" : level === "listing" || (isTold && terms === 0) ? "page" : "term";
  const what =
    level === "term" && isTold && terms > 0 && pages > 0
      ? `${plural(terms, "term")} and ${plural(pages, "page")}`
      : plural(isTold ? body.values.length : values.length, noun);
  return (
    <Dialog open onClose={onClose} title={`Keep ${what} out`} wide>
      <div className="grid grid-cols-[300px_1fr] gap-6">
        <div className="space-y-3">
          <UnsureLines lines={unsureOnes} value={unsure} onChange={setUnsure} />
          {level === "term" && terms > 0 && (
            <Field
              label={pages > 0 ? "Terms stop" : "Stops"}
              hint={pages > 0 ? "Pages go by their codes, each one by itself." : undefined}
            >
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
          {isTold && body.values.length === 0 ? (
            <p className="text-sm text-soft">Say what these lines are, or leave it.</p>
          ) : (
            preview.isPending && <Loading what="what it would have stopped" />
          )}
          {body.values.length > 0 && preview.data && (
            <NegativeEffect found={preview.data} noun={terms > 0 && pages > 0 ? "term or page" : noun} money={money} />
          )}
          <div className="mt-auto flex justify-end gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button
              look="ember"
              disabled={busy || body.values.length === 0 || !preview.data || preview.isError}
              onClick={() => void keep()}
            >
              Put into the basket
            </Button>
          </div>
        </div>
      </div>
    </Dialog>
  );
}

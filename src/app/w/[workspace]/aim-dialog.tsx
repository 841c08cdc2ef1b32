"use client";

import { useState } from "react";
import { toast } from "sonner";
import type { ListingWindow } from "@/core/channel/listing-window";
import { PURPOSES } from "@/core/account/records/campaign";
import { MATCH_TYPES, type MatchType } from "@/core/channel/match-types";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, parseMoney } from "@/core/kit/money";
import type { Aim, Aiming } from "@/core/targets/aims";
import type { AccountView } from "@/server/planogram/workbench";
import type { AimingPreview } from "@/server/targets/aim";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ChoiceSelect, Checkbox, Field, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { SearchSelect } from "@/ui/search-select";
import { useSettled } from "@/ui/use-settled";
import { ApiError, toastError, useApi, useAsk } from "../../_lib/api";
import { useApiPath, useDays, useRefresh, useWorkspace } from "../../_lib/workspace";
import { AimHomes } from "./aim-homes";
import { AimItems } from "./aim-items";
import { AimTargets } from "./aim-targets";
import { useChange } from "./use-edit";

const NEW = "new";

/** What is aimed at when the dialog opens. */
export interface AimStart {
  values: string[];
  /** Whether they are terms or codes of listings; a window of a category stands for listings that come and go. */
  what: "keyword" | "listing";
  window?: ListingWindow;
  /** Items of ours that are offered first. */
  items?: string[];
  purpose?: (typeof PURPOSES)[number];
}

/** Makes targets of terms, listings or a category window: where, with which items, at what bid, before it is in the basket. */
export function AimDialog({ start, onClose, onDone }: { start: AimStart; onClose: () => void; onDone?: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(true);
  const { currency } = useWorkspace();
  const [days] = useDays();
  const { what } = start;
  const [matches, setMatches] = useState<readonly MatchType[]>(["exact"]);
  const [where, setWhere] = useState(NEW);
  const [name, setName] = useState(() =>
    start.window ? `Listings of ${start.window.category.split(" > ").at(-1)}` : (start.values[0] ?? ""),
  );
  const [purpose, setPurpose] = useState<(typeof PURPOSES)[number]>(
    start.purpose ?? (start.what === "keyword" ? "rank" : "conquest"),
  );
  const [budget, setBudget] = useState<string | null>(null);
  const [bid, setBid] = useState("");
  const [bids, setBids] = useState<Record<string, number>>({});
  const [leftOut, setLeftOut] = useState<string[]>([]);
  const [goesFirst, setGoesFirst] = useState(false);
  const [items, setItems] = useState<string[]>(start.items ?? []);
  const [busy, setBusy] = useState(false);
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));

  const lines = account.data?.lines ?? [];
  const kind = what;
  const fitting = lines.filter((line) => line.level === "campaign" && line.kind === kind);
  const nameOf = new Map(fitting.map((line) => [line.key, line.name]));
  const places = [
    { value: NEW, label: "A new campaign" },
    ...fitting.map(({ key, name: label }) => ({ value: key, label, group: "New ad group in" })),
    ...lines
      .filter(({ level, parent }) => level === "adGroup" && nameOf.has(parent ?? ""))
      .map(({ key, name: label, parent }) => ({
        ...{ value: key, label: `${nameOf.get(parent ?? "")} · ${label}`, group: "Ad groups, with their items" },
      })),
  ];
  const aims = start.values.map((value): Aim =>
    what === "keyword" ? { what, text: value, matches: [...matches] } : { what: "listing", listing: value },
  );
  if (start.window) aims.push({ what: "window", window: start.window });
  const [spend, setSpend] = useState<number | null>(null);
  const budgetText = budget ?? usualBudget(spend);
  const parsedBudget = parseMoney(budgetText);
  const parsedBid = bid.trim() === "" ? null : parseMoney(bid);
  const isAdGroup = lines.some(({ key, level }) => key === where && level === "adGroup");
  const body: Aiming = {
    aims,
    bid: parsedBid?.ok ? parsedBid.mills : null,
    ...{ bids, leftOut },
    place:
      where === NEW
        ? {
            kind: "new",
            name: name.trim() || "?",
            purpose,
            items,
            dailyBudget: parsedBudget.ok ? parsedBudget.mills : 0,
            ...(goesFirst ? { serveOrder: 1 } : {}),
          }
        : isAdGroup
          ? { kind: "ad-group", adGroup: where }
          : { kind: "campaign", campaign: where, items },
  };
  const asked = useSettled(JSON.stringify(body), 200);
  const preview = useAsk<AimingPreview>(apiPath("targets/preview"), JSON.parse(asked), {
    placeholderData: (before) => before,
  });
  const found = preview.data;
  if (found && found.costADay !== spend) setSpend(found.costADay);
  const missing =
    what === "keyword" && matches.length === 0
      ? "Choose how it must match."
      : where === NEW && name.trim() === ""
        ? "The campaign needs a name."
        : where === NEW && !parsedBudget.ok
          ? "The budget must be an amount such as 12.50."
          : parsedBid && !parsedBid.ok
            ? "The bid must be an amount such as 0.45."
            : !isAdGroup && items.length === 0
              ? "Choose at least one item to show."
              : null;
  const keep = async () => {
    setBusy(true);
    try {
      const { changes } = await change("targets", body);
      toast.success(changes === 0 ? "That is aimed at there already." : `${plural(changes, "change")} in the basket`);
      onDone?.();
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const title = start.window
    ? "Aim at a window of listings"
    : `Aim at ${plural(start.values.length, what === "keyword" ? "term" : "listing")}`;
  return (
    <Dialog open onClose={onClose} title={title} wide>
      <div className="grid grid-cols-[270px_1fr] gap-6">
        <div className="space-y-3">
          {what === "keyword" && (
            <fieldset>
              <legend className="mb-1 text-sm font-medium">Matches</legend>
              <div className="flex gap-4">
                {MATCH_TYPES.map((match) => (
                  <Checkbox
                    key={match}
                    label={match}
                    checked={matches.includes(match)}
                    onChange={(event) =>
                      setMatches(event.target.checked ? [...matches, match] : matches.filter((one) => one !== match))
                    }
                  />
                ))}
              </div>
            </fieldset>
          )}
          <div>
            <span className="mb-1 block text-sm font-medium">Where</span>
            <SearchSelect label="Where" value={where} choices={places} onChange={(next) => setWhere(next || NEW)} />
          </div>
          {where === NEW && (
            <>
              <Field label="Campaign">
                {(props) => <TextInput {...props} value={name} onChange={(event) => setName(event.target.value)} />}
              </Field>
              <div className="grid grid-cols-2 gap-3">
                <Field label="Purpose">
                  {(props) => <ChoiceSelect {...props} value={purpose} onChange={setPurpose} choices={PURPOSES} />}
                </Field>
                <Field label={`${currency} a day`}>
                  {(props) => (
                    <TextInput
                      {...props}
                      inputMode="decimal"
                      value={budgetText}
                      onChange={(event) => setBudget(event.target.value)}
                    />
                  )}
                </Field>
              </div>
            </>
          )}
          <Field label={`Bid in ${currency} a click`} hint="Empty takes what is proposed for each.">
            {(props) => (
              <TextInput {...props} inputMode="decimal" value={bid} onChange={(event) => setBid(event.target.value)} />
            )}
          </Field>
        </div>
        <div className="flex min-w-0 flex-col gap-4">
          {preview.error instanceof ApiError && <ErrorNote error={preview.error.failure} />}
          {preview.isPending && <Loading what="what that would make" />}
          {found && (
            <>
              {found.faults.length > 0 && (
                <div role="alert" className="text-sm font-semibold text-ember">
                  <ul className="space-y-1">
                    {found.faults.slice(0, 5).map(({ label, fault }) => (
                      <li key={label}>▾ {fault}</li>
                    ))}
                    {found.faults.length > 5 && <li>and {plural(found.faults.length - 5, "more")}.</li>}
                  </ul>
                </div>
              )}
              <AimTargets
                targets={found.targets}
                leftOut={leftOut}
                onBid={(id, mills) => setBids({ ...bids, [id]: mills })}
                onLeave={(id, isOut) => setLeftOut(isOut ? [...leftOut, id] : leftOut.filter((one) => one !== id))}
              />
              <AimHomes homes={found.homes} goesFirst={goesFirst} onFirst={where === NEW ? setGoesFirst : null} />
              <Past found={found} money={(mills) => formatMoney(mills, currency)} />
              {!isAdGroup && <AimItems offered={found.items} told={found.chosen} chosen={items} onChange={setItems} />}
            </>
          )}
          <div className="mt-auto flex items-center justify-end gap-2">
            {missing && <span className="mr-auto text-sm text-soft">{missing}</span>}
            <Button onClick={onClose}>Leave it</Button>
            <Button
              look="ember"
              disabled={busy || missing !== null || !found || found.faults.length > 0}
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

/** What is proposed a day in units: half as much again as the same places cost, or five where nothing is known. */
function usualBudget(spend: number | null): string {
  return String(Math.max(5, Math.ceil((1.5 * (spend ?? 0)) / 1000)));
}

function Past({ found, money }: { found: AimingPreview; money: (mills: number) => string }) {
  if (found.days === 0) return null;
  if (found.past.length === 0) {
    return <p className="text-sm text-soft">No ad of ours stood there in the last {plural(found.days, "day")}.</p>;
  }
  const sum = (of: (one: AimingPreview["past"][number]) => number) => found.past.reduce((all, one) => all + of(one), 0);
  const campaigns = [...new Set(found.past.flatMap((one) => one.campaigns))];
  return (
    <p className="text-sm num">
      In the last {plural(found.days, "day")} they brought{" "}
      {plural(
        sum(({ clicks }) => clicks),
        "click",
      )}
      , spend <b>{money(sum(({ cost }) => cost))}</b>, {formatCount(sum(({ orders }) => orders))} orders and sales{" "}
      <b>{money(sum(({ revenue }) => revenue))}</b>, through {campaigns.slice(0, 3).join(", ")}
      {campaigns.length > 3 && ` and ${campaigns.length - 3} more`}.
    </p>
  );
}

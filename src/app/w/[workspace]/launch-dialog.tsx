"use client";

import { useState } from "react";
import { PURPOSES } from "@/core/account/records/campaign";
import { plural } from "@/core/kit/format";
import { formatMoney, parseMoney } from "@/core/kit/money";
import { KIT_PARTS, type KitPart } from "@/core/targets/launch-kit";
import type { Launch, LaunchLook } from "@/server/targets/launch";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox, ChoiceSelect, Field, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useSettled } from "@/ui/use-settled";
import { ApiError, toastError, useAsk } from "../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../_lib/workspace";
import { AimItems } from "./aim-items";
import { LaunchParts } from "./launch-parts";
import { useSuggestedItems } from "./use-suggested-items";
import { toast } from "sonner";
import { useChange } from "./use-edit";

const ALL_PARTS = Object.keys(KIT_PARTS) as KitPart[];

/** Everything that items need to be advertised, in one preview: campaigns by part, targets, bids, budgets, what is left out. */
export function LaunchDialog({
  items: first,
  suggestion = "",
  onClose,
  onDone,
}: {
  items: string[];
  suggestion?: string;
  onClose: () => void;
  onDone?: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange(true);
  const { currency } = useWorkspace();
  const [items, setItems] = useState(first);
  const [isChoosing, setChoosing] = useState(first.length === 0);
  const told = useSuggestedItems(items);
  const [name, setName] = useState<string | null>(suggestion || null);
  const [purpose, setPurpose] = useState<(typeof PURPOSES)[number]>("rank");
  const [budget, setBudget] = useState("10");
  const [each, setEach] = useState(false);
  const [makeWay, setMakeWay] = useState(false);
  const [parts, setParts] = useState<KitPart[]>(ALL_PARTS);
  const [leftOut, setLeftOut] = useState<string[]>([]);
  const [bids, setBids] = useState<Record<string, number>>({});
  const [busy, setBusy] = useState(false);
  // Campaigns are called after their first item, until somebody calls them otherwise.
  const called = name ?? told[0]?.title.slice(0, 60) ?? "";
  const parsed = parseMoney(budget);
  const body: Omit<Launch, "bargainWords"> = {
    ...{ items, name: called.trim() || "Launch", purpose, each, parts, makeWay, leftOut, bids },
    dailyBudget: parsed.ok ? parsed.mills : 0,
  };
  const asked = useSettled(JSON.stringify(body), 200);
  const question = JSON.parse(asked) as typeof body;
  const look = useAsk<LaunchLook>(apiPath("launch/preview"), question, {
    enabled: question.items.length > 0 && parsed.ok,
    placeholderData: (before) => before,
  });
  const found = items.length > 0 ? look.data : undefined;
  const missing =
    items.length === 0
      ? "Choose what is launched."
      : !parsed.ok
        ? "The budget must be an amount such as 12.50."
        : called.trim() === ""
          ? "It needs a name."
          : null;
  const keep = async () => {
    setBusy(true);
    try {
      const { changes, campaigns } = await change<{ changes: number; campaigns: string[] }>("launch", body);
      toast.success(`${plural(campaigns.length, "campaign")} made: ${plural(changes, "change")} in the basket`);
      onDone?.();
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  const money = (mills: number) => formatMoney(mills, currency);
  return (
    <Dialog
      open
      onClose={onClose}
      title={items.length === 0 ? "Launch items" : `Launch ${plural(items.length, "item")}`}
      wide
    >
      <div className="grid grid-cols-[240px_1fr] gap-6">
        <div className="space-y-3">
          <Field label="Name" hint="Campaigns are called after it and their part.">
            {(props) => <TextInput {...props} value={called} onChange={({ target }) => setName(target.value)} />}
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
                  value={budget}
                  onChange={({ target }) => setBudget(target.value)}
                />
              )}
            </Field>
          </div>
          {items.length > 1 && (
            <Checkbox label="A kit for each item" checked={each} onChange={({ target }) => setEach(target.checked)} />
          )}
          <fieldset className="space-y-1">
            <legend className="mb-1 text-sm font-medium">Parts</legend>
            {ALL_PARTS.map((part) => {
              const why = found?.nothing.find((one) => one.part === part)?.why;
              return (
                <div key={part}>
                  <Checkbox
                    label={KIT_PARTS[part]}
                    checked={parts.includes(part)}
                    onChange={({ target }) =>
                      setParts(ALL_PARTS.filter((one) => (one === part ? target.checked : parts.includes(one))))
                    }
                  />
                  {why && <p className="pl-6 text-xs text-soft">{why}</p>}
                </div>
              );
            })}
          </fieldset>
          <Button look="quiet" onClick={() => setChoosing(!isChoosing)}>
            {isChoosing ? "Show the campaigns" : "Choose items"}
          </Button>
        </div>
        <div className="flex min-h-96 min-w-0 flex-col gap-3">
          {isChoosing && <AimItems offered={[]} told={told} chosen={items} onChange={setItems} />}
          {look.error instanceof ApiError && items.length > 0 && <ErrorNote error={look.error.failure} />}
          {!isChoosing && items.length > 0 && look.isPending && <Loading what="what a launch needs" />}
          {found && !isChoosing && (
            <LaunchParts
              campaigns={found.campaigns}
              onBid={(id, mills) => setBids({ ...bids, [id]: mills })}
              onLeave={(id, isOut) => setLeftOut(isOut ? [...leftOut, id] : leftOut.filter((one) => one !== id))}
            />
          )}
          {found && (
            <div role="status" className="space-y-1 text-sm num">
              <p>
                {plural(found.campaigns.filter(({ dailyBudget }) => dailyBudget > 0).length, "campaign")},{" "}
                {plural(found.changes, "change")} in the basket. A day costs up to{" "}
                <b>{money(found.campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0))}</b>
                {found.worstDay === null
                  ? "; what this channel may spend beyond that is not known."
                  : `, ${money(found.worstDay)} after days that left money over.`}
              </p>
              {found.homes.length > 0 && (
                <p className="text-soft">
                  Shown already by{" "}
                  {found.homes.map(({ name: home, bid }) => `${home} (up to ${money(bid)})`).join(", ")}: what is aimed
                  at by name serves first.
                </p>
              )}
              {found.crowd.length > 0 && (
                <div>
                  <p className="text-ember">
                    ▾ Other items of the same category bid more and outrank it in the same auctions:{" "}
                    {found.crowd
                      .slice(0, 3)
                      .map(({ name: home, bid }) => `${home} (up to ${money(bid)})`)
                      .join(", ")}
                    .
                  </p>
                  <Checkbox
                    label={`Make way: keep its exact keywords and pages out of them${
                      found.wouldStop.clicks > 0
                        ? `. In 90 days they brought ${plural(found.wouldStop.clicks, "click")} there, spend ${money(found.wouldStop.cost)}, ${plural(found.wouldStop.orders, "order")}, sales ${money(found.wouldStop.revenue)}`
                        : ""
                    }`}
                    checked={makeWay}
                    onChange={({ target }) => setMakeWay(target.checked)}
                  />
                </div>
              )}
              {found.soldOut.length > 0 && (
                <p className="text-ember">
                  ▾ {plural(found.soldOut.length, "item")} can’t be bought now and{" "}
                  {found.soldOut.length === 1 ? "shows" : "show"} only once {found.soldOut.length === 1 ? "it" : "they"}{" "}
                  can: {found.soldOut.slice(0, 3).join(", ")}.
                </p>
              )}
              {found.checks.map(({ message }) => (
                <p key={message} className="text-ember">
                  ▾ {message}
                </p>
              ))}
            </div>
          )}
          <div className="mt-auto flex items-center justify-end gap-2">
            {missing && <span className="mr-auto text-sm text-soft">{missing}</span>}
            <Button onClick={onClose}>Leave it</Button>
            <Button
              look="ember"
              disabled={busy || missing !== null || !found || look.isError}
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

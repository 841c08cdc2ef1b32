"use client";

import { HELD } from "@/core/account/records/campaign";
import { FlexFields } from "../flex-fields";
import { useState } from "react";
import { PURPOSES } from "@/core/account/records/campaign";
import { plural } from "@/core/kit/format";
import { countryName } from "@/core/kit/countries";
import { millsToField, parseMoney } from "@/core/kit/money";
import type { Planogram } from "@/core/planogram/planogram";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { DayInput } from "@/ui/day-input";
import { Field, Select, TextInput } from "@/ui/field";
import { commonEach, type EachChange } from "./each";
import { CountrySelect } from "./country-select";
import { SlotFactors } from "./slot-factors";
import { BIDDING_LABEL, SERVE_LABEL } from "./setting-words";

/** The planned campaigns or ad groups that are picked. */
export interface Picked {
  keys: string[];
  /** Of ad groups only the bid is their own. */
  areCampaigns: boolean;
  /** The name of the only one, or null. */
  name: string | null;
}

/** Settings of single planned campaigns, and bids of single ad groups. What is left empty is as the plan has it for all. */
export function EachDialog({
  planogram,
  picked: { keys, areCampaigns, name },
  onSet,
  onClose,
}: {
  planogram: Planogram;
  picked: Picked;
  /** Changes them; null puts all back to what the plan says. */
  onSet: (change: EachChange | null) => void;
  onClose: () => void;
}) {
  const [start] = useState(() => commonEach(planogram.each, keys));
  const [change, setChange] = useState<EachChange>({});
  const startBid = start.startingBid === undefined ? "" : millsToField(start.startingBid);
  const startGoal = start.goal ? String(start.goal) : "";
  const [bid, setBid] = useState(startBid);
  const [goal, setGoal] = useState(startGoal);
  const value = { ...start, ...change };
  const set = (next: EachChange) => setChange((old) => ({ ...old, ...next }));
  const parsed = bid.trim() === "" ? null : parseMoney(bid);
  const goalNumber = goal.trim() === "" ? null : Number(goal.replace(",", "."));
  const isGoalWrong = goalNumber !== null && !(goalNumber > 0 && goalNumber <= 1000);
  const lacksGoal =
    (value.bidding ?? planogram.bidding) === "return" && (goalNumber ?? planogram.goal) === null && !isGoalWrong;
  const isWrong = (parsed !== null && !parsed.ok) || isGoalWrong || lacksGoal;
  const choice = <K extends "purpose" | "bidding" | "serveOrder" | "inStockOnly">(
    label: string,
    key: K,
    options: [value: NonNullable<EachChange[K]>, label: string][],
    asPlanned: string,
  ) => (
    <Field label={label}>
      {(props) => (
        <Select
          {...props}
          value={value[key] === undefined ? "" : String(value[key])}
          onChange={(event) => {
            const found = options.find(([option]) => String(option) === event.target.value);
            set({ [key]: found?.[0] } as EachChange);
          }}
        >
          <option value="">as the plan: {asPlanned}</option>
          {options.map(([option, words]) => (
            <option key={String(option)} value={String(option)}>
              {words}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
  const what = plural(keys.length, areCampaigns ? "campaign" : "ad group");
  return (
    <Dialog open onClose={onClose} title={name ? `Settings of ${name}` : `Settings of ${what}`}>
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault();
          if (isWrong) return;
          // What nobody typed stays as each of them has it: several that differ show empty too.
          onSet({
            ...change,
            ...(bid !== startBid && { startingBid: parsed?.ok ? parsed.mills : undefined }),
            ...(goal !== startGoal && { goal: goalNumber ?? undefined }),
          });
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <Field
            label="Starting bid"
            hint={
              planogram.bidBy === "worth"
                ? "Empty: by what a click is worth."
                : `Empty: ${millsToField(planogram.startingBid)} as the plan.`
            }
            {...(parsed !== null && !parsed.ok ? { error: "An amount such as 0.30." } : {})}
          >
            {(props) => (
              <TextInput {...props} inputMode="decimal" value={bid} onChange={(event) => setBid(event.target.value)} />
            )}
          </Field>
          {areCampaigns && (
            <>
              {choice(
                "Purpose",
                "purpose",
                PURPOSES.map((one) => [one, one]),
                planogram.purpose,
              )}
              {choice(
                "Bidding",
                "bidding",
                Object.entries(BIDDING_LABEL) as [Planogram["bidding"], string][],
                BIDDING_LABEL[planogram.bidding].toLowerCase(),
              )}
              <Field
                label="Goal return"
                hint={`Empty: ${planogram.goal ?? "none"} as the plan.`}
                {...(isGoalWrong ? { error: "A number such as 3.5." } : {})}
                {...(lacksGoal ? { error: "Bidding towards a return needs a goal." } : {})}
              >
                {(props) => (
                  <TextInput
                    {...props}
                    inputMode="decimal"
                    value={goal}
                    onChange={(event) => setGoal(event.target.value)}
                  />
                )}
              </Field>
              {choice(
                "Serves",
                "serveOrder",
                SERVE_LABEL.map((words, i) => [i + 1, words]),
                SERVE_LABEL[planogram.serveOrder - 1]!,
              )}
              {choice(
                "Sold-out items",
                "inStockOnly",
                [
                  [true, "left out"],
                  [false, "served too"],
                ],
                planogram.inStockOnly ? "left out" : "served too",
              )}
              <FlexFields
                value={value.flex}
                otherwise={planogram.settings?.flex ?? HELD}
                onChange={(flex) => flex !== null && set({ flex })}
              />
              <CountrySelect
                value={value.country}
                empty={`as the plan: ${planogram.settings?.country ? countryName(planogram.settings.country) : "anywhere it sells"}`}
                onChange={(country) => set({ country })}
              />
              <SlotFactors value={value.slots ?? planogram.settings?.slots} onChange={(slots) => set({ slots })} />
              {(["startsOn", "endsOn"] as const).map((day) => (
                <Field key={day} label={day === "startsOn" ? "First day" : "Last day"}>
                  {(props) => (
                    <DayInput
                      {...props}
                      value={value[day] ?? ""}
                      onChange={(text) => set({ [day]: text || undefined })}
                    />
                  )}
                </Field>
              ))}
            </>
          )}
        </div>
        <div className="flex justify-end gap-2 border-t border-line pt-3">
          <Button look="quiet" className="mr-auto" onClick={() => onSet(null)}>
            All as the plan
          </Button>
          <Button onClick={onClose}>Leave it</Button>
          <Button look="ember" type="submit" disabled={isWrong}>
            Set for {what}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

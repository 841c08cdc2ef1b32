"use client";

import { useState } from "react";
import type { Planogram } from "@/core/planogram/planogram";
import { ChoiceSelect, Field, TextInput } from "@/ui/field";
import { MoneyInput } from "./money-input";

const SHARE_LABEL: Record<Planogram["shareBy"], string> = {
  revenue: "ad sales, 90 days",
  cost: "spend, 90 days",
  marginal: "what the next euro brings",
  items: "number of items",
  evenly: "evenly",
  shares: "shares of my own",
};

/** Shares as typed, `50/50/15`; null where that is not a list of numbers. */
function readShares(text: string): number[] | null {
  const shares = text
    .split(/[/;\s]+/)
    .filter(Boolean)
    .map((part) => Number(part.replace(",", ".").replace("%", "")));
  return shares.length > 0 && shares.every((share) => Number.isFinite(share) && share >= 0) ? shares : null;
}

/** The money of all campaigns together and by what they share it; the same amount for each, or shares that are typed. */
export function BudgetSettings({
  draft,
  campaigns,
  onChange,
}: {
  draft: Planogram;
  /** How many the plan makes. */
  campaigns: number;
  onChange: (change: Partial<Planogram>) => void;
}) {
  const [typed, setTyped] = useState((draft.shares ?? []).join("/"));
  const isWrong = draft.shareBy === "shares" && readShares(typed) === null;
  return (
    <>
      <MoneyInput
        label="Total a day"
        hint="Shared over the campaigns."
        value={draft.totalBudget}
        onChange={(totalBudget) => onChange({ totalBudget })}
      />
      <Field label="Shared by">
        {(props) => (
          <ChoiceSelect
            {...props}
            value={draft.shareBy}
            onChange={(shareBy) => onChange({ shareBy })}
            choices={SHARE_LABEL}
          />
        )}
      </Field>
      {draft.shareBy === "evenly" && campaigns > 0 && (
        <MoneyInput
          label="Each a day"
          hint={`Of ${campaigns}, all the same.`}
          value={Math.floor(draft.totalBudget / campaigns)}
          onChange={(each) => onChange({ totalBudget: each * campaigns, budgets: undefined })}
        />
      )}
      {draft.shareBy === "shares" && (
        <Field
          label="Shares"
          hint="In the order of the list, such as 50/50/15; the last counts for all after it."
          {...(isWrong ? { error: "Numbers parted by strokes, such as 50/50/15." } : {})}
        >
          {(props) => (
            <TextInput
              {...props}
              value={typed}
              onChange={(event) => {
                setTyped(event.target.value);
                const shares = readShares(event.target.value);
                if (shares) onChange({ shares });
              }}
            />
          )}
        </Field>
      )}
    </>
  );
}

"use client";

import { useState } from "react";
import type { CampaignSettings } from "@/core/account/acts/settings";
import { PURPOSES } from "@/core/account/records/campaign";
import { DayInput } from "@/ui/day-input";
import { Checkbox, Field, Select, TextInput } from "@/ui/field";
import { countryName } from "@/core/kit/countries";
import type { AccountLine, AccountView } from "@/server/planogram/workbench";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays } from "../../_lib/workspace";
import { EditForm, type FormProps } from "./edit-form";
import { CountrySelect } from "./planogram/country-select";
import { BIDDING_LABEL } from "./planogram/setting-words";

const DAY_LABEL = { startsOn: "First day", endsOn: "Last day" } as const;

/** Settings of campaigns that run, one or many; what is left as it is stays. */
export function SettingsForm({ on, ...rest }: FormProps) {
  const [settings, setSettings] = useState<CampaignSettings>({});
  const [goal, setGoal] = useState("");
  const [namesFollow, setNamesFollow] = useState(true);
  const set = <K extends keyof CampaignSettings>(name: K, value: CampaignSettings[K] | undefined) =>
    setSettings(({ [name]: _, ...others }) =>
      value === undefined ? (others as CampaignSettings) : ({ ...others, [name]: value } as CampaignSettings),
    );
  const number = Number(goal.replace(",", "."));
  const isWrong = goal.trim() !== "" && !(number > 0 && number <= 1000);
  const all: CampaignSettings = { ...settings, ...(goal.trim() !== "" && !isWrong && { goal: number }) };
  const apiPath = useApiPath();
  const [days] = useDays();
  const lines = useApi<AccountView>(apiPath(`account?days=${days}`)).data?.lines ?? [];
  const picked = lines.filter(({ key }) => on.keys.includes(key));
  /** What is set now: one value of all that are picked, or that they differ. */
  const now = (of: (line: AccountLine) => string): string => {
    const values = new Set(picked.map(of));
    return values.size === 0
      ? "as it is"
      : values.size === 1
        ? `as it is: ${[...values][0]}`
        : "as it is: not the same in all";
  };
  const choice = (
    label: string,
    name: "purpose" | "bidding" | "inStockOnly",
    options: [value: string | boolean, words: string][],
  ) => (
    <Field label={label}>
      {(props) => (
        <Select
          {...props}
          value={settings[name] === undefined ? "" : String(settings[name])}
          onChange={(event) => set(name, options.find(([value]) => String(value) === event.target.value)?.[0] as never)}
        >
          <option value="">{now((line) => options.find(([value]) => value === line[name])?.[1] ?? "none")}</option>
          {options.map(([value, words]) => (
            <option key={String(value)} value={String(value)}>
              {words}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
  const isFit = !isWrong && Object.keys(all).length > 0;
  return (
    <EditForm edit={isFit ? { action: "settings", keys: on.keys, settings: all, namesFollow } : null} {...rest}>
      <div className="grid grid-cols-2 gap-3">
        {choice(
          "Purpose",
          "purpose",
          PURPOSES.map((one) => [one, one]),
        )}
        {choice("Bidding", "bidding", Object.entries(BIDDING_LABEL))}
        <Field
          label="Goal return"
          hint={`Empty: ${now(({ goal: set }) => String(set ?? "none"))}.`}
          {...(isWrong ? { error: "A number such as 3.5." } : {})}
        >
          {(props) => (
            <TextInput {...props} inputMode="decimal" value={goal} onChange={(event) => setGoal(event.target.value)} />
          )}
        </Field>
        {choice("Sold-out items", "inStockOnly", [
          [true, "left out"],
          [false, "served too"],
        ])}
        <CountrySelect
          value={settings.country ?? undefined}
          empty={now(({ country }) => (country ? countryName(country) : "anywhere it sells"))}
          onChange={(country) => set("country", country)}
        />
        <span />
        {(["startsOn", "endsOn"] as const).map((day) => (
          <div key={day}>
            <Field label={DAY_LABEL[day]} hint={`Empty: ${now((line) => line[day] ?? "none")}.`}>
              {(props) => (
                <DayInput
                  {...props}
                  disabled={settings[day] === null}
                  value={settings[day] ?? ""}
                  onChange={(text) => set(day, text || undefined)}
                />
              )}
            </Field>
            <Checkbox
              label={`No ${DAY_LABEL[day].toLowerCase()}`}
              checked={settings[day] === null}
              onChange={(event) => set(day, event.target.checked ? null : undefined)}
            />
          </div>
        ))}
      </div>
      {settings.purpose && (
        <Checkbox
          label="Names that say the old purpose say the new one"
          checked={namesFollow}
          onChange={(event) => setNamesFollow(event.target.checked)}
        />
      )}
    </EditForm>
  );
}

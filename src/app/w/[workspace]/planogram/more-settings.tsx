"use client";

import { useState } from "react";
import { HELD } from "@/core/account/records/campaign";
import { FlexFields } from "../flex-fields";
import type { Planogram } from "@/core/planogram/planogram";
import type { AccountLine } from "@/server/planogram/workbench";
import { DayInput } from "@/ui/day-input";
import { Field, Select } from "@/ui/field";
import { CountrySelect } from "./country-select";
import { SlotFactors } from "./slot-factors";

type Settings = NonNullable<Planogram["settings"]>;

/** Settings without what is as the channel has it anyway; none at all where nothing is left. */
function tidy(settings: Settings): Settings | undefined {
  const kept = Object.entries(settings).filter(([, value]) => value !== undefined && value !== null && value !== "");
  return kept.length > 0 ? Object.fromEntries(kept) : undefined;
}

/** What a campaign that runs is set to, for others to take over. */
function settingsOf({ flex, slots, hours, pool, country }: AccountLine): Settings {
  return {
    ...(flex && { flex }),
    ...(slots && { slots }),
    ...(hours && { hours }),
    ...(pool && { pool }),
    ...(country && { country }),
  };
}

/** Settings of every planned campaign beside the usual ones, typed or copied from a campaign that runs. */
export function MoreSettings({
  draft,
  campaigns,
  onChange,
}: {
  draft: Planogram;
  campaigns: AccountLine[];
  onChange: (change: Partial<Planogram>) => void;
}) {
  const settings = draft.settings ?? {};
  // Fields that keep what is typed begin anew where another campaign's settings were copied.
  const [copied, setCopied] = useState("");
  const set = (change: Settings) => onChange({ settings: tidy({ ...settings, ...change }) });
  const running = campaigns.filter(({ level }) => level === "campaign");
  const told = [settings.hours && "hours", settings.pool && "a pool"].filter(Boolean);
  return (
    <details className="mt-3 rounded-md border border-line px-3 py-2">
      <summary className="cursor-pointer text-sm font-medium">
        More settings
        <span className="font-normal text-soft">
          {" "}
          · {draft.settings ? "set for every campaign" : "as the channel has them"}
        </span>
      </summary>
      <div className="mt-2 grid grid-cols-2 gap-3">
        <Field label="Copy from">
          {(props) => (
            <Select
              {...props}
              value=""
              onChange={(event) => {
                const from = running.find(({ key }) => key === event.target.value);
                if (!from) return;
                setCopied(from.key);
                const { startsOn, endsOn } = settings;
                const { purpose, serveOrder } = from;
                onChange({
                  settings: tidy({ startsOn, endsOn, ...settingsOf(from) }),
                  ...(purpose && { purpose }),
                  ...(serveOrder !== null && { serveOrder }),
                });
              }}
            >
              <option value="">a campaign that runs</option>
              {running.map(({ key, name }) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <FlexFields
          key={copied}
          value={settings.flex}
          otherwise={HELD}
          onChange={(flex) => flex !== null && set({ flex })}
        />
        <CountrySelect value={settings.country} onChange={(country) => set({ country })} />
        <span />
        {(["startsOn", "endsOn"] as const).map((name) => (
          <Field key={name} label={name === "startsOn" ? "First day" : "Last day"}>
            {(props) => (
              <DayInput
                {...props}
                value={settings[name] ?? ""}
                onChange={(text) => set({ [name]: text || undefined })}
              />
            )}
          </Field>
        ))}
        <SlotFactors value={settings.slots} onChange={(slots) => set({ slots })} />
      </div>
      {told.length > 0 && <p className="mt-2 text-xs text-soft">Copied too: {told.join(" and ")}.</p>}
    </details>
  );
}

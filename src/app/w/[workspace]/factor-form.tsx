"use client";

import { useState } from "react";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { effectiveBid } from "@/core/account/effective-bid";
import { plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { SLOT_KEYS, SLOT_LABEL, type SlotKey } from "@/core/kit/slots";
import type { AccountLine, AccountView } from "@/server/planogram/workbench";
import { Field, Select, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../_lib/workspace";
import { EditForm, type FormProps } from "./edit-form";
import type { Edit } from "./use-edit";

/** A factor for campaigns in a slot or at hours, with the bids that come of it worked out. */
export function FactorForm({ on, onClose, onDone, by }: FormProps & { by: "slot" | "hour" }) {
  const apiPath = useApiPath();
  const [days] = useDays();
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));
  const lines = account.data?.lines ?? [];
  const campaigns = lines.filter(({ level }) => level === "campaign");
  const [chosen, setChosen] = useState<string[]>(on.keys);
  const [slot, setSlot] = useState<SlotKey>(on.slot ?? "lead-row");
  const [from, setFrom] = useState(on.hours?.[0] ?? 18);
  const [to, setTo] = useState((on.hours?.at(-1) ?? 21) + 1);
  const [text, setText] = useState("1.2");
  const factor = Number(text.replace(",", "."));
  const isFit = Number.isFinite(factor) && factor >= 0 && factor <= 10 && text.trim() !== "";
  const picked = on.hours ?? hoursFrom(from, to);
  const edit: Edit | null =
    !isFit || chosen.length === 0
      ? null
      : by === "slot"
        ? { action: "slot-factor", keys: chosen, slot, factor }
        : { action: "hour-factor", keys: chosen, hours: picked, factor };
  return (
    <EditForm edit={edit} onClose={onClose} onDone={onDone}>
      {on.keys.length === 0 && (
        <div>
          <span className="mb-1 block text-sm font-medium">Campaign</span>
          <SearchSelect
            label="Campaign"
            value={chosen[0] ?? ""}
            choices={campaigns.map(({ key, name }) => ({ value: key, label: name }))}
            onChange={(key) => setChosen(key === "" ? [] : [key])}
          />
        </div>
      )}
      {by === "slot" && on.slot === undefined && (
        <Field label="Slot">
          {(props) => (
            <Select {...props} value={slot} onChange={(event) => setSlot(event.target.value as SlotKey)}>
              {SLOT_KEYS.map((key) => (
                <option key={key} value={key}>
                  {SLOT_LABEL[key]}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {by === "hour" && on.hours === undefined && (
        <div className="grid grid-cols-2 gap-3">
          <HourField label="From" value={from} onChange={setFrom} />
          <HourField label="To" value={to} onChange={setTo} last />
        </div>
      )}
      <Field
        label="Bids there times"
        hint="1 is as it is, 0 keeps out."
        {...(isFit ? {} : { error: "A factor from 0 to 10." })}
      >
        {(props) => <TextInput {...props} autoFocus value={text} onChange={(event) => setText(event.target.value)} />}
      </Field>
      {isFit && (
        <Effective
          campaigns={campaigns.filter(({ key }) => chosen.includes(key))}
          groups={lines.filter(({ level }) => level === "adGroup")}
          factor={factor}
          by={by}
          slot={slot}
          hours={picked}
        />
      )}
    </EditForm>
  );
}

function hoursFrom(from: number, to: number): number[] {
  const length = to > from ? to - from : to + 24 - from;
  return Array.from({ length }, (_, i) => (from + i) % 24);
}

function HourField({
  label,
  value,
  onChange,
  last = false,
}: {
  label: string;
  value: number;
  onChange: (hour: number) => void;
  last?: boolean;
}) {
  return (
    <Field label={label}>
      {(props) => (
        <Select {...props} value={value} onChange={(event) => onChange(Number(event.target.value))}>
          {Array.from({ length: 24 }, (_, i) => (last ? i + 1 : i)).map((hour) => (
            <option key={hour} value={hour}>
              {String(hour).padStart(2, "0")}:00
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}

/** Campaigns told one by one. */
const MOST_TOLD = 6;

function Effective({
  campaigns,
  groups,
  factor,
  by,
  slot,
  hours,
}: {
  campaigns: AccountLine[];
  groups: AccountLine[];
  factor: number;
  by: "slot" | "hour";
  slot: SlotKey;
  hours: number[];
}) {
  const { currency } = useWorkspace();
  const money = (mills: number) => formatMoney(mills, currency);
  return (
    <div
      role="status"
      aria-label="What bids become"
      className="space-y-1 rounded-md bg-petrol-wash px-3 py-2 text-sm num"
    >
      {campaigns.slice(0, MOST_TOLD).map((campaign) => {
        const bid = Math.max(
          0,
          ...groups.filter(({ parent }) => parent === campaign.key).map((group) => group.bid ?? 0),
        );
        const hour = hours[0] ?? 0;
        const own = { slots: campaign.slots ?? undefined, hours: campaign.hours ?? undefined };
        const next =
          by === "slot"
            ? { ...own, slots: { ...own.slots, [slot]: factor } }
            : {
                ...own,
                hours: Array.from({ length: 24 }, (_, h) => (hours.includes(h) ? factor : (own.hours?.[h] ?? 1))),
              };
        const clean = (of: typeof own) => ({
          ...(of.slots ? { slots: of.slots } : {}),
          ...(of.hours ? { hours: of.hours } : {}),
        });
        const [was, is] = [effectiveBid(bid, clean(own), slot, hour), effectiveBid(bid, clean(next), slot, hour)];
        const isHigh = is > CHANNEL_LIMITS.highestBid;
        return (
          <p key={campaign.key} className={isHigh ? "font-semibold text-ember" : undefined}>
            {campaign.name}: a bid of {money(bid)} goes in as <b>{money(is)}</b>
            {by === "hour" && ` in the ${SLOT_LABEL[slot].toLowerCase()}`}, today {money(was)}
            {isHigh && `; the channel takes ${money(CHANNEL_LIMITS.highestBid)} at most`}.
          </p>
        );
      })}
      {campaigns.length > MOST_TOLD && <p>and {plural(campaigns.length - MOST_TOLD, "more campaign")}.</p>}
    </div>
  );
}

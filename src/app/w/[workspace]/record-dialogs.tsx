"use client";

import { addDays, format } from "date-fns";
import { useState, type ReactNode } from "react";
import { effectiveBid } from "@/core/account/effective-bid";
import { CHANNEL_LIMITS } from "@/core/account/channel-limits";
import { plural } from "@/core/kit/format";
import { formatMoney, parseMoney } from "@/core/kit/money";
import { SLOT_KEYS, SLOT_LABEL, type SlotKey } from "@/core/kit/slots";
import type { AccountLine, AccountView } from "@/server/planogram/workbench";
import type { BudgetsView } from "@/server/budgets/pools";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../_lib/workspace";
import { useEdit } from "./use-edit";

export type RecordAction = "pause" | "bid" | "budget" | "serve" | "pool" | "flex" | "slot" | "hour" | "move";

const TITLE: Record<RecordAction, string> = {
  pause: "Pause",
  bid: "Change bids",
  budget: "Change daily budgets",
  serve: "Serve order",
  pool: "Budget pool",
  flex: "Auction flex",
  slot: "Slot factor",
  hour: "Hour factor",
  move: "Move to a campaign of its own",
};

/** What an act is about. */
export interface ActedOn {
  /** Keys of records; campaigns, for what only campaigns have. */
  keys: string[];
  /** How they are called together, for example "3 campaigns". */
  label: string;
  /** The slot or hours that a factor is for. */
  slot?: SlotKey;
  hours?: number[];
}

/** The dialog of an act on records of the account; what it decides goes into the basket. */
export function RecordDialog({
  action,
  on,
  onClose,
  onDone,
}: {
  action: RecordAction | null;
  on: ActedOn;
  onClose: () => void;
  onDone?: () => void;
}) {
  const done = () => {
    onClose();
    onDone?.();
  };
  if (action === null) return null;
  const Form = FORMS[action];
  return (
    <Dialog open onClose={onClose} title={`${TITLE[action]}: ${on.label}`}>
      <Form on={on} onClose={onClose} onDone={done} />
    </Dialog>
  );
}

interface FormProps {
  on: ActedOn;
  onClose: () => void;
  onDone: () => void;
}
type Edit = Parameters<ReturnType<typeof useEdit>>[0];

/** A form that puts one edit into the basket; without an edit there is something to put right first. */
function EditForm({
  edit: made,
  children,
  onClose,
  onDone,
}: {
  edit: Edit | null;
  children: ReactNode;
  onClose: () => void;
  onDone: () => void;
}) {
  const edit = useEdit();
  const [busy, setBusy] = useState(false);
  const submit = async () => {
    if (!made || busy) return;
    setBusy(true);
    if (await edit(made)) onDone();
    setBusy(false);
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      {children}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={made === null || busy}>
          Put into the basket
        </Button>
      </div>
    </form>
  );
}

function PauseForm({ on, ...rest }: FormProps) {
  const [pausedFor, setPausedFor] = useState("");
  const [reviewOn, setReviewOn] = useState(() => format(addDays(new Date(), 14), "yyyy-MM-dd"));
  return (
    <EditForm
      edit={{ action: "status", keys: on.keys, status: "paused", pausedFor, reviewOn: reviewOn || null }}
      {...rest}
    >
      <Field label="Why" hint="For whoever wonders later.">
        {(props) => (
          <TextInput
            {...props}
            maxLength={200}
            value={pausedFor}
            onChange={(event) => setPausedFor(event.target.value)}
          />
        )}
      </Field>
      <Field label="Look again on" hint="Empty means never. Targets keep no reason and no day.">
        {(props) => (
          <TextInput {...props} type="date" value={reviewOn} onChange={(event) => setReviewOn(event.target.value)} />
        )}
      </Field>
    </EditForm>
  );
}

const WAYS = {
  percent: "Change by percent",
  set: "Set to an amount",
  add: "Add or take off an amount",
  "at-least": "Raise to at least",
  "at-most": "Lower to at most",
  round: "Round to",
} as const;

function AmountForm({ on, field, onClose, onDone }: FormProps & { field: "bid" | "dailyBudget" }) {
  const { currency } = useWorkspace();
  const [how, setHow] = useState<keyof typeof WAYS>("percent");
  const [text, setText] = useState("10");
  const isMinus = text.trim().startsWith("-") || text.trim().startsWith("−");
  const parsed = parseMoney(text.trim().replace(/^[-−+]/, ""));
  const percent = Number(text.replace(",", ".").replace("−", "-"));
  const op =
    how === "percent"
      ? Number.isFinite(percent) && percent !== 0 && percent >= -90 && percent <= 400
        ? ({ how, percent } as const)
        : null
      : parsed.ok && (how === "add" || !isMinus)
        ? ({ how, mills: how === "add" && isMinus ? -parsed.mills : parsed.mills } as const)
        : null;
  const isFit = op !== null && !(op.how === "round" && op.mills === 0);
  const error = isFit ? undefined : how === "percent" ? "A percentage from −90 to 400." : "An amount such as 12.50.";
  return (
    <EditForm
      edit={op && isFit ? { action: "amount", keys: on.keys, field, op } : null}
      onClose={onClose}
      onDone={onDone}
    >
      <Field label="How">
        {(props) => (
          <Select {...props} value={how} onChange={(event) => setHow(event.target.value as typeof how)}>
            {Object.entries(WAYS).map(([key, label]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Field
        label={how === "percent" ? "Percent, minus for lower" : `Amount in ${currency}`}
        {...(error ? { error } : {})}
      >
        {(props) => <TextInput {...props} autoFocus value={text} onChange={(event) => setText(event.target.value)} />}
      </Field>
    </EditForm>
  );
}

function BidForm(props: FormProps) {
  return <AmountForm {...props} field="bid" />;
}

function BudgetForm(props: FormProps) {
  return <AmountForm {...props} field="dailyBudget" />;
}

function ServeForm({ on, ...rest }: FormProps) {
  const [serveOrder, setServeOrder] = useState(1);
  return (
    <EditForm edit={{ action: "serve-order", keys: on.keys, serveOrder }} {...rest}>
      <Field label="Serves" hint="1 serves an item first; the next takes over when the money of the first is gone.">
        {(props) => (
          <Select {...props} value={serveOrder} onChange={(event) => setServeOrder(Number(event.target.value))}>
            {[1, 2, 3, 4, 5, 6, 7, 8, 9].map((place) => (
              <option key={place}>{place}</option>
            ))}
          </Select>
        )}
      </Field>
    </EditForm>
  );
}

function PoolForm({ on, ...rest }: FormProps) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const budgets = useApi<BudgetsView>(apiPath("budgets"));
  const [pool, setPool] = useState("");
  const pools = budgets.data?.pools ?? [];
  return (
    <EditForm edit={{ action: "pool", keys: on.keys, pool: pool === "" ? null : pool }} {...rest}>
      <Field label="Draws on" hint="Beside its own budget. Pools are made under Budgets.">
        {(props) => (
          <Select {...props} value={pool} onChange={(event) => setPool(event.target.value)}>
            <option value="">no pool</option>
            {pools.map(({ key, name, dailyBudget }) => (
              <option key={key} value={key}>
                {name}, {formatMoney(dailyBudget, currency)} a day
              </option>
            ))}
          </Select>
        )}
      </Field>
    </EditForm>
  );
}

const FLEX_WORDS = {
  hold: "Hold: the bid as it is",
  ease: "Ease: the channel may lower it",
  stretch: "Stretch: the channel may raise it",
} as const;

function FlexForm({ on, ...rest }: FormProps) {
  const [mode, setMode] = useState<keyof typeof FLEX_WORDS>("hold");
  const [limit, setLimit] = useState("50");
  const share = Number(limit) / 100;
  const isFit = mode !== "stretch" || (share > 0 && share <= 2);
  return (
    <EditForm
      edit={isFit ? { action: "flex", keys: on.keys, flex: { mode, limit: mode === "stretch" ? share : 0 } } : null}
      {...rest}
    >
      <Field label="In each auction">
        {(props) => (
          <Select {...props} value={mode} onChange={(event) => setMode(event.target.value as typeof mode)}>
            {Object.entries(FLEX_WORDS).map(([key, label]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {mode === "stretch" && (
        <Field label="By at most, percent" {...(isFit ? {} : { error: "A percentage from 1 to 200." })}>
          {(props) => <TextInput {...props} value={limit} onChange={(event) => setLimit(event.target.value)} />}
        </Field>
      )}
    </EditForm>
  );
}

function MoveForm({ on, ...rest }: FormProps) {
  const { currency } = useWorkspace();
  const [name, setName] = useState(on.keys.length === 1 ? on.label : "");
  const [budget, setBudget] = useState("5");
  const parsed = parseMoney(budget);
  const isFit = name.trim() !== "" && parsed.ok;
  return (
    <EditForm
      edit={isFit ? { action: "move-target", keys: on.keys, name: name.trim(), dailyBudget: parsed.mills } : null}
      {...rest}
    >
      <Field label="Campaign">
        {(props) => <TextInput {...props} autoFocus value={name} onChange={(event) => setName(event.target.value)} />}
      </Field>
      <Field label={`Budget a day in ${currency}`} {...(parsed.ok ? {} : { error: "An amount such as 12.50." })}>
        {(props) => <TextInput {...props} value={budget} onChange={(event) => setBudget(event.target.value)} />}
      </Field>
      <p className="text-sm text-soft">
        It shows the same items, with the settings of the campaign that it comes from. Its results stay its own.
      </p>
    </EditForm>
  );
}

/** A factor for campaigns in a slot or at hours, with the bids that come of it worked out. */
function FactorForm({ on, onClose, onDone, by }: FormProps & { by: "slot" | "hour" }) {
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
    <div role="status" className="space-y-1 rounded-md bg-petrol-wash px-3 py-2 text-sm num">
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

function SlotForm(props: FormProps) {
  return <FactorForm {...props} by="slot" />;
}

function HourForm(props: FormProps) {
  return <FactorForm {...props} by="hour" />;
}

const FORMS: Record<RecordAction, (props: FormProps) => ReactNode> = {
  pause: PauseForm,
  bid: BidForm,
  budget: BudgetForm,
  serve: ServeForm,
  pool: PoolForm,
  flex: FlexForm,
  slot: SlotForm,
  hour: HourForm,
  move: MoveForm,
};

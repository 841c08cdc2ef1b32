"use client";

import { HELD, type Flex } from "@/core/account/records/campaign";
import { FlexFields } from "./flex-fields";
import { useState, type ReactNode } from "react";
import type { ActLevel } from "@/core/account/act";
import { ACTS, actsFor, type ActName } from "@/core/account/acts";
import { formatMoney, parseMoney } from "@/core/kit/money";
import type { BudgetsView } from "@/server/budgets/pools";
import { Dialog } from "@/ui/dialog";
import { DayInput } from "@/ui/day-input";
import { ChoiceSelect, Field, Select, TextInput } from "@/ui/field";
import { useApi } from "../../_lib/api";
import { useApiPath, useWorkspace } from "../../_lib/workspace";
import { EditForm, type ActedOn, type FormProps } from "./edit-form";
import { FactorForm } from "./factor-form";
import { FolderForm, RenameForm } from "./name-forms";
import { useDayFromNow } from "./reason-fields";
import { RegroupForm } from "./regroup-form";
import { SettingsForm } from "./settings-form";

/** Acts on records that have a form. */
export type RecordAction = keyof typeof FORMS;

/** What is done most stands first. */
const USUAL: readonly RecordAction[] = ["status", "budget", "bid", "settings"];

/** Acts with a form that fit a level, in the order of their buttons. */
export function formsFor(level: ActLevel): RecordAction[] {
  const place = (name: RecordAction) => (USUAL.includes(name) ? USUAL.indexOf(name) : USUAL.length);
  return actsFor(level)
    .filter((name): name is RecordAction => name in FORMS)
    .sort((a, b) => place(a) - place(b));
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
    <Dialog open onClose={onClose} title={`${ACTS[action].title}: ${on.label}`}>
      <Form on={on} onClose={onClose} onDone={done} />
    </Dialog>
  );
}

/** Days after which a pause is usually looked at again. */
const PAUSE_DAYS = 14;

function PauseForm({ on, ...rest }: FormProps) {
  const [pausedFor, setPausedFor] = useState("");
  const [reviewOn, setReviewOn] = useState(useDayFromNow(PAUSE_DAYS));
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
        {(props) => <DayInput {...props} value={reviewOn} onChange={(text) => setReviewOn(text)} />}
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

function AmountForm({ on, act, onClose, onDone }: FormProps & { act: "bid" | "budget" }) {
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
    <EditForm edit={op && isFit ? { action: act, keys: on.keys, op } : null} onClose={onClose} onDone={onDone}>
      <Field label="How">{(props) => <ChoiceSelect {...props} value={how} onChange={setHow} choices={WAYS} />}</Field>
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
  return <AmountForm {...props} act="bid" />;
}

function BudgetForm(props: FormProps) {
  return <AmountForm {...props} act="budget" />;
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

function FlexForm({ on, ...rest }: FormProps) {
  const [flex, setFlex] = useState<Flex | null | undefined>(HELD);
  return (
    <EditForm edit={flex ? { action: "flex", keys: on.keys, flex } : null} {...rest}>
      <p className="text-sm text-soft">
        By what it knows of a search the channel may bid less or more than the bid in each auction. 0 and 0 holds it.
      </p>
      <FlexFields value={HELD} otherwise={HELD} onChange={(next) => setFlex(next === undefined ? HELD : next)} />
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

function SlotForm(props: FormProps) {
  return <FactorForm {...props} by="slot" />;
}

function HourForm(props: FormProps) {
  return <FactorForm {...props} by="hour" />;
}

const FORMS = {
  status: PauseForm,
  bid: BidForm,
  budget: BudgetForm,
  "serve-order": ServeForm,
  pool: PoolForm,
  flex: FlexForm,
  "slot-factor": SlotForm,
  "hour-factor": HourForm,
  "move-target": MoveForm,
  rename: RenameForm,
  folder: FolderForm,
  "move-groups": RegroupForm,
  settings: SettingsForm,
} satisfies Partial<Record<ActName, (props: FormProps) => ReactNode>>;

"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { millsToDecimal, parseMoney } from "@/core/kit/money";
import type { AccountLine, AccountView } from "@/server/planogram/workbench";
import { Button } from "@/ui/button";
import { Checkbox, Field, TextInput } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../_lib/workspace";
import { ClickPrices } from "./click-prices";
import { useItemEdit, type ItemFormProps } from "./use-item-edit";

/** House rule: a solo begins with this share of the catch-all's budget. */
const SHARE_OF_CATCH_ALL = 0.25;
/** What it begins with where there is no catch-all, mills. */
const USUAL_BUDGET = 5_000;
const USUAL_BID = 400;

/** The campaign that serves what no other does: the one for it that runs, or the last in serve order. */
function catchAllOf(lines: AccountLine[]): AccountLine | undefined {
  const running = lines.filter(({ level, status, kind }) => level === "campaign" && status === "on" && kind === "feed");
  return (
    running.find(({ purpose }) => purpose === "catch-all") ??
    running.toSorted((a, b) => (b.serveOrder ?? 0) - (a.serveOrder ?? 0))[0]
  );
}

/** Campaigns of their own for items, served before the homes they have. Begins with what house rules say. */
export function SoloForm(props: ItemFormProps) {
  const apiPath = useApiPath();
  const [days] = useDays();
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));
  if (!account.data) return <Loading what="the campaigns" />;
  const catchAll = catchAllOf(account.data.lines);
  const bid = account.data.lines.find(({ level, parent }) => level === "adGroup" && parent === catchAll?.key)?.bid;
  return <SoloFields {...props} catchAll={catchAll} bid={bid ?? USUAL_BID} />;
}

function SoloFields({
  onClose,
  catchAll,
  bid: start,
  ...chosen
}: ItemFormProps & { catchAll: AccountLine | undefined; bid: number }) {
  const { currency } = useWorkspace();
  const edit = useItemEdit(chosen);
  const isOne = chosen.count === 1;
  const quarter = catchAll?.dailyBudget ? Math.round(catchAll.dailyBudget * SHARE_OF_CATCH_ALL) : USUAL_BUDGET;
  const [name, setName] = useState(chosen.suggestion.slice(0, 80));
  const [budget, setBudget] = useState(millsToDecimal(quarter));
  const [bid, setBid] = useState(millsToDecimal(start));
  const [families, setFamilies] = useState(true);
  const [each, setEach] = useState(false);
  const [dailyBudget, click] = [parseMoney(budget), parseMoney(bid)];
  const isFit = (each || name.trim() !== "") && dailyBudget.ok && click.ok;
  const submit = async () => {
    if (!isFit) return;
    const own = { dailyBudget: dailyBudget.mills, bid: click.mills, families, each };
    await edit({ action: "solo", name: each ? "" : name.trim(), ...own });
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      {!isOne && (
        <Checkbox
          label={`One for each of the ${plural(chosen.count, "item")}, called after it`}
          checked={each}
          onChange={(event) => setEach(event.target.checked)}
        />
      )}
      {!each && (
        <Field label="Campaign">
          {(props) => <TextInput {...props} autoFocus value={name} onChange={(event) => setName(event.target.value)} />}
        </Field>
      )}
      <div className="grid grid-cols-2 gap-3">
        <Field
          label={`Budget a day in ${currency}`}
          hint={catchAll ? `A quarter of ${catchAll.name}.` : undefined}
          {...(dailyBudget.ok ? {} : { error: "An amount such as 12.50." })}
        >
          {(props) => <TextInput {...props} value={budget} onChange={(event) => setBudget(event.target.value)} />}
        </Field>
        <Field label={`Bid in ${currency} a click`} {...(click.ok ? {} : { error: "An amount such as 0.45." })}>
          {(props) => <TextInput {...props} value={bid} onChange={(event) => setBid(event.target.value)} />}
        </Field>
      </div>
      <ClickPrices items={chosen.items} />
      <Checkbox
        label="Whole families, and whatever joins them later"
        checked={families}
        onChange={(event) => setFamilies(event.target.checked)}
      />
      <p className="text-sm text-soft">
        {each ? "They serve their items first." : "It serves them first."} The homes they have stay, and take over when
        the money is gone for the day.
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={!isFit}>
          Put into the basket
        </Button>
      </div>
    </form>
  );
}

"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import { millsToField, parseMoney } from "@/core/kit/money";
import type { SoloStart } from "@/server/across/catalogue/solo-start";
import { Button } from "@/ui/button";
import { Checkbox, Field, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { useAsk } from "../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../_lib/workspace";
import { ClickPrices } from "./click-prices";
import { useItemEdit, type ItemFormProps } from "./use-item-edit";

/** Campaigns of their own for items, served before the homes they have. Begins with what house rules say. */
export function SoloForm(props: ItemFormProps) {
  const apiPath = useApiPath();
  const [days] = useDays();
  const { items, query } = props;
  const asked = query === null ? items : { query: Object.fromEntries(new URLSearchParams(query)), days };
  const start = useAsk<SoloStart>(apiPath("account/edits/solo-start"), { items: asked });
  if (start.error) return <ErrorNote error={start.error.failure} />;
  if (!start.data) return <Loading what="what serves them now" />;
  return <SoloFields {...props} start={start.data} />;
}

function SoloFields({ onClose, start, ...chosen }: ItemFormProps & { start: SoloStart }) {
  const { currency } = useWorkspace();
  const edit = useItemEdit(chosen);
  const isOne = chosen.count === 1;
  const [name, setName] = useState((chosen.suggestion || start.name).slice(0, 80));
  const [budget, setBudget] = useState(millsToField(start.dailyBudget));
  const [bid, setBid] = useState(millsToField(start.bid));
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
          hint={
            start.from
              ? `A quarter of ${start.from.name}, which serves ${isOne ? "it" : "most of them"} now.`
              : undefined
          }
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

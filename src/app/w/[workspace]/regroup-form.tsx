"use client";

import { useState } from "react";
import { parseMoney } from "@/core/kit/money";
import type { AccountView } from "@/server/planogram/workbench";
import { Field, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../_lib/workspace";
import { EditForm, type FormProps } from "./edit-form";

const OWN = "own";

/** Moves ad groups to another campaign of their kind, where thin ones learn together; or to one of their own. */
export function RegroupForm({ on, ...rest }: FormProps) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const lines = useApi<AccountView>(apiPath(`account?days=${days}`)).data?.lines ?? [];
  const [into, setInto] = useState("");
  const [name, setName] = useState(on.keys.length === 1 ? on.label : "");
  const [budget, setBudget] = useState("5");
  const parents = new Set(lines.flatMap(({ key, parent }) => (parent && on.keys.includes(key) ? [parent] : [])));
  const kinds = new Set(lines.flatMap(({ key, kind }) => (parents.has(key) && kind ? [kind] : [])));
  const choices = [
    { value: OWN, label: "a campaign of their own" },
    ...lines
      .filter(
        ({ level, kind, key }) =>
          level === "campaign" && kind && kinds.has(kind) && !(parents.size === 1 && parents.has(key)),
      )
      .map(({ key, name: label }) => ({ value: key, label, group: "Campaigns" })),
  ];
  const amount = parseMoney(budget);
  const own = name.trim() !== "" && amount.ok ? { into: null, name: name.trim(), dailyBudget: amount.mills } : null;
  const where = into === OWN ? own : into === "" ? null : { into };
  return (
    <EditForm edit={where && { action: "move-groups", keys: on.keys, ...where }} {...rest}>
      <div>
        <span className="mb-1 block text-sm font-medium">To</span>
        <SearchSelect label="To" value={into} choices={choices} placeholder="a campaign" onChange={setInto} />
      </div>
      {into === OWN && (
        <div className="grid grid-cols-2 gap-3">
          <Field label="Campaign">
            {(props) => <TextInput {...props} value={name} onChange={(event) => setName(event.target.value)} />}
          </Field>
          <Field label={`Budget a day in ${currency}`} {...(amount.ok ? {} : { error: "An amount such as 12.50." })}>
            {(props) => <TextInput {...props} value={budget} onChange={(event) => setBudget(event.target.value)} />}
          </Field>
        </div>
      )}
      <p className="text-sm text-soft">
        What they did stays theirs. A campaign that is left without groups is paused; its budget is not handed on.
      </p>
    </EditForm>
  );
}

"use client";

import Link from "next/link";
import { useState } from "react";
import { shelfSetOf } from "@/core/account/records/labels";
import type { Planogram } from "@/core/planogram/planogram";
import { TEMPLATES } from "@/core/planogram/templates";
import type { SplitField } from "@/server/planogram/planograms";
import { Field, Select } from "@/ui/field";
import { useWorkspace } from "../../../_lib/workspace";

/** Structures to start from, each with when it pays and what it costs; choosing one changes the plan on screen and nothing else. */
export function TemplatePicker({
  draft,
  fields,
  onChange,
}: {
  draft: Planogram;
  fields: SplitField[];
  onChange: (change: Partial<Planogram>) => void;
}) {
  const { slug } = useWorkspace();
  const [chosen, setChosen] = useState("");
  const template = TEMPLATES.find(({ key }) => key === chosen);
  const missing = template?.needs.filter((need) => !fields.some(({ by }) => by === need)) ?? [];
  const choose = (key: string) => {
    setChosen(key);
    const found = TEMPLATES.find((one) => one.key === key);
    if (!found || found.needs.some((need) => !fields.some(({ by }) => by === need))) return;
    // Rungs of fields that this catalogue has not, such as a second level of categories, drop out with their lines.
    const change = found.change(draft);
    const ladder = (change.ladder ?? []).filter(({ by }) => fields.some((field) => field.by === by));
    const line = (at = 0) => Math.min(at, ladder.length);
    onChange({
      ...change,
      ...{ name: found.name, ladder, campaignLine: line(change.campaignLine), adGroupLine: line(change.adGroupLine) },
      ...{ budgets: undefined },
    });
  };
  return (
    <div>
      <Field label="Start from">
        {(props) => (
          <Select {...props} value={chosen} onChange={(event) => choose(event.target.value)}>
            <option value="">what stands below</option>
            {TEMPLATES.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {template && (
        <div className="mt-2 space-y-1 text-sm">
          <p>{template.pays}</p>
          <p className="text-soft">{template.costs}</p>
          {missing.map((need) => (
            <p key={need} className="font-semibold text-ember">
              {shelfSetOf(need) === null ? (
                "The catalogue has no categories to divide by."
              ) : (
                <>
                  It needs a ready-made shelf set that is not kept yet.{" "}
                  <Link className="text-petrol underline" href={`/w/${slug}/shelves`}>
                    Add it under Shelves
                  </Link>
                </>
              )}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}

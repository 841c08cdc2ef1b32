"use client";

import { useEffect, useState } from "react";
import { shelfSetSchema, usualCuts, withPlainNames, type ShelfSet } from "@/core/shelves/shelf-set";
import type { ShelfSetPage } from "@/server/shelves/blocks";
import { Button } from "@/ui/button";
import { Field, Select, TextInput } from "@/ui/field";
import { HeatGlyph } from "@/ui/heat";
import { versionOf } from "@/core/kit/version-of";
import { apiSend, ApiError, toastMeanwhile } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** What a cut is called while it is typed: by chance its heat, else its place, since its name is the number itself. */
function labelOf(set: ShelfSet, at: number): string {
  if (set.measure === "probability") return set.tiers[at]!.name;
  return at === set.tiers.length - 1 ? "Lowest tier" : `Tier ${at + 1}`;
}

/** The cuts of a set, with what they would make shown below before anything is kept. */
export function EditCuts({
  definition,
  onPreview,
  onClose,
}: {
  definition: ShelfSet;
  onPreview: (page: ShelfSetPage) => void;
  onClose: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [draft, setDraft] = useState<ShelfSet>(definition);
  // As it was when the editor opened, whatever is read anew since.
  const [seen] = useState(() => versionOf(definition));
  const [message, setMessage] = useState<string | null>(null);
  const parsed = shelfSetSchema.safeParse(draft);
  const fault = parsed.success ? null : (parsed.error.issues[0]?.message ?? "Something is not right.");

  useEffect(() => {
    if (fault) return;
    let isStale = false;
    const timer = setTimeout(() => {
      apiSend<ShelfSetPage>(apiPath("shelf-sets/preview"), draft)
        .then((page) => {
          if (isStale) return;
          setMessage(null);
          onPreview(page);
        })
        .catch((error: unknown) => setMessage(error instanceof ApiError ? error.failure.message : String(error)));
    }, 250);
    return () => {
      isStale = true;
      clearTimeout(timer);
    };
  }, [draft, fault, apiPath, onPreview]);

  const save = async (since = `?since=${seen}`) => {
    try {
      await apiSend(apiPath(`shelf-sets${since}`), draft, "PUT");
      await refresh();
      onClose();
    } catch (error) {
      toastMeanwhile(error, () => void save(""));
    }
  };
  const setMeasure = (measure: ShelfSet["measure"]) => {
    const cuts = usualCuts(measure, draft.goal);
    const tiers = draft.tiers.map((tier, i) => ({
      ...tier,
      least: i === draft.tiers.length - 1 ? null : (cuts[i] ?? 0),
    }));
    setDraft(withPlainNames({ ...draft, measure, tiers }));
  };
  const number = (text: string) => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));
  const numberField = (
    label: string,
    key: "goal" | "windowDays" | "leastClicks" | "leastOrders" | "margin" | "patience",
    hint: string,
  ) => (
    <Field label={label} hint={hint}>
      {(props) => (
        <TextInput
          {...props}
          inputMode="decimal"
          defaultValue={String(definition[key])}
          onChange={(event) => setDraft({ ...draft, [key]: number(event.target.value) })}
        />
      )}
    </Field>
  );
  return (
    <section className="rounded-lg border border-line bg-surface p-4" aria-label="Edit cuts">
      <div className="grid grid-cols-[1.4fr_repeat(6,1fr)] gap-3">
        <Field label="Compare by" hint="Pooled chance weighs the evidence.">
          {(props) => (
            <Select
              {...props}
              value={draft.measure}
              onChange={(event) => setMeasure(event.target.value as ShelfSet["measure"])}
            >
              <option value="threshold">Return as it was</option>
              <option value="probability">Chance of reaching the goal</option>
            </Select>
          )}
        </Field>
        {numberField("Goal", "goal", "Sales per unit of cost.")}
        {numberField("Days", "windowDays", "Back from the last day.")}
        {numberField("Least clicks", "leastClicks", "Or the orders beside.")}
        {numberField("Least orders", "leastOrders", "Below both: unread.")}
        {numberField("Margin", "margin", "Share past a cut to move.")}
        {numberField("Patience", "patience", "Or recomputes in a row.")}
      </div>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        {draft.tiers.map((tier, i) => (
          <div key={tier.key} className="w-32">
            <Field label={labelOf(draft, i)} hint={tier.least === null ? "Takes what is left." : "and up"}>
              {(props) =>
                tier.least === null ? (
                  <span {...props} className="flex h-8 items-center">
                    {draft.measure === "probability" && <HeatGlyph heat={tier.heat} />}
                  </span>
                ) : (
                  <TextInput
                    {...props}
                    inputMode="decimal"
                    key={draft.measure}
                    defaultValue={String(tier.least)}
                    onChange={(event) => {
                      const tiers = draft.tiers.map((other, at) =>
                        at === i ? { ...other, least: number(event.target.value) } : other,
                      );
                      setDraft(withPlainNames({ ...draft, tiers }));
                    }}
                  />
                )
              }
            </Field>
          </div>
        ))}
        <div className="ml-auto flex items-center gap-2">
          <span role="status" className="max-w-72 text-sm font-semibold text-ember">
            {fault ?? message}
          </span>
          <Button onClick={onClose}>Leave as it was</Button>
          <Button look="ember" disabled={fault !== null} onClick={() => void save()}>
            Keep these cuts
          </Button>
        </div>
      </div>
    </section>
  );
}

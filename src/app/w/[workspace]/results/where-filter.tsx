"use client";

import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { ListFilter, X } from "lucide-react";
import { useState } from "react";
import { formatMetric } from "@/core/kit/format";
import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import { parseMoney } from "@/core/kit/money";
import { Button } from "@/ui/button";
import { Select, TextInput } from "@/ui/field";
import { useWorkspace } from "../../../_lib/workspace";
import type { Where } from "./asks";

/** A number as people type it for a metric: money in currency units, shares in per cent. Null when it is none. */
export function typedValue(metric: MetricKey, text: string): number | null {
  const read = parseMoney(text.replace("%", "").trim());
  if (!read.ok) return null;
  const { kind } = METRICS[metric];
  if (kind === "money") return read.mills;
  return kind === "percent" ? read.mills / 100_000 : read.mills / 1000;
}

/** Narrows the lines down by numbers, each condition a chip that can be taken off. */
export function WhereFilter({ where, onChange }: { where: Where[]; onChange: (where: Where[]) => void }) {
  const { currency } = useWorkspace();
  const [metric, setMetric] = useState<MetricKey>("cost");
  const [op, setOp] = useState<Where["op"]>("least");
  const [text, setText] = useState("");
  const value = typedValue(metric, text);
  const { kind } = METRICS[metric];
  return (
    <>
      <Popover className="relative">
        <PopoverButton as={Button} look="quiet">
          <ListFilter aria-hidden className="size-3.5" /> By numbers
        </PopoverButton>
        <PopoverPanel className="absolute z-20 mt-1 rounded-lg border border-line bg-surface p-3 shadow-lg">
          {({ close }) => (
            <form
              className="flex items-center gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (value === null) return;
                onChange([...where, { metric, op, value }]);
                setText("");
                close();
              }}
            >
              <Select
                aria-label="Metric"
                className="w-40!"
                value={metric}
                onChange={(event) => setMetric(event.target.value as MetricKey)}
              >
                {METRIC_KEYS.map((key) => (
                  <option key={key} value={key}>
                    {METRICS[key].label}
                  </option>
                ))}
              </Select>
              <Select
                aria-label="At least or at most"
                className="w-28!"
                value={op}
                onChange={(event) => setOp(event.target.value as Where["op"])}
              >
                <option value="least">at least</option>
                <option value="most">at most</option>
              </Select>
              <TextInput
                aria-label={`Value${kind === "money" ? ` in ${currency}` : kind === "percent" ? " in per cent" : ""}`}
                inputMode="decimal"
                className="w-24!"
                placeholder={kind === "money" ? currency : kind === "percent" ? "%" : "number"}
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
              <Button type="submit" disabled={value === null}>
                Add
              </Button>
            </form>
          )}
        </PopoverPanel>
      </Popover>
      {where.map((one, i) => {
        const words = `${METRICS[one.metric].label} ${one.op === "least" ? "≥" : "≤"} ${formatMetric(one.metric, one.value, currency)}`;
        return (
          <button
            key={`${one.metric}/${one.op}/${one.value}`}
            type="button"
            className="flex h-8 items-center gap-1 rounded-full border border-line bg-surface px-3 text-sm num hover:bg-raised"
            aria-label={`No longer only ${words}`}
            onClick={() => onChange(where.filter((_, at) => at !== i))}
          >
            {words} <X aria-hidden className="size-3.5" />
          </button>
        );
      })}
    </>
  );
}

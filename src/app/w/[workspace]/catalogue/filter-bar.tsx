"use client";

import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Columns3, ListFilter, X } from "lucide-react";
import { useState, type RefObject } from "react";
import { CONDITION_OPS, type Condition } from "@/core/catalogue/find-rows";
import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import { millsToDecimal, parseMoney } from "@/core/kit/money";
import { HEATS } from "@/core/shelves/evidence";
import { Button } from "@/ui/button";
import { Checkbox, Field, Select, TextInput } from "@/ui/field";
import { COLUMN_CHOICES } from "./item-columns";

export interface FilterState {
  q: string;
  filter: Condition[];
  shelf: string;
  columns: string;
}

const OP_LABEL: Record<Condition["op"], string> = {
  is: "is",
  "is-not": "is not",
  contains: "contains",
  "at-least": "is at least",
  "at-most": "is at most",
  empty: "is empty",
  filled: "has a value",
};

const FIELDS: [key: string, label: string][] = [
  ["heat", "Heat"],
  ["brand", "Brand"],
  ["category", "Category"],
  ["category1", "Category, level 1"],
  ["availability", "Availability"],
  ["price", "Price"],
  ["title", "Title"],
  ["id", "Item ID"],
  ["family", "Family"],
  ...METRIC_KEYS.map((key) => [key, METRICS[key].label] as [string, string]),
];

function isMoney(field: string): boolean {
  return field === "price" || METRICS[field as MetricKey]?.kind === "money";
}

function chipText({ field, op, value }: Condition): string {
  const label = FIELDS.find(([key]) => key === field)?.[1] ?? field;
  const shown = isMoney(field) && value !== "" ? millsToDecimal(Number(value)) : value;
  return `${label} ${OP_LABEL[op]}${op === "empty" || op === "filled" ? "" : ` ${shown}`}`;
}

/** Search, conditions as chips, a shelf, and the choice of columns. */
export function FilterBar({
  searchBox,
  state,
  onChange,
}: {
  searchBox: RefObject<HTMLInputElement | null>;
  state: FilterState;
  onChange: (change: Partial<FilterState>) => void;
}) {
  const { q, filter, shelf, columns } = state;
  const chosen = columns.split(",");
  const chip = (key: string, text: string, onRemove: () => void) => (
    <span
      key={key}
      className="inline-flex h-7 items-center gap-1 rounded-full border border-petrol/40 bg-petrol-wash pr-1 pl-3 text-sm"
    >
      {text}
      <button
        type="button"
        aria-label={`Remove: ${text}`}
        onClick={onRemove}
        className="rounded-full p-0.5 hover:bg-surface"
      >
        <X aria-hidden className="size-3.5" />
      </button>
    </span>
  );
  return (
    <div className="flex flex-wrap items-center gap-2">
      <TextInput
        ref={searchBox}
        type="search"
        aria-label="Search items"
        placeholder="Search title, ID, brand   ( / )"
        className="w-72!"
        value={q}
        onChange={(event) => onChange({ q: event.target.value })}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
      />
      {filter.map((condition, i) =>
        chip(`${i}`, chipText(condition), () => onChange({ filter: filter.filter((_, at) => at !== i) })),
      )}
      {shelf !== "" && chip("shelf", `On shelf ${shelf.split("/")[1] ?? shelf}`, () => onChange({ shelf: "" }))}
      <Popover className="relative">
        <PopoverButton as={Button} look="quiet">
          <ListFilter aria-hidden className="size-3.5" /> Add filter
        </PopoverButton>
        <PopoverPanel className="absolute left-0 z-20 mt-1 w-72 rounded-lg border border-line bg-surface p-3 shadow-lg">
          {({ close }) => (
            <ConditionForm
              onAdd={(condition) => {
                onChange({ filter: [...filter, condition] });
                close();
              }}
            />
          )}
        </PopoverPanel>
      </Popover>
      <Popover className="relative ml-auto">
        <PopoverButton as={Button} look="quiet">
          <Columns3 aria-hidden className="size-3.5" /> Columns
        </PopoverButton>
        <PopoverPanel className="absolute right-0 z-20 mt-1 grid max-h-96 w-56 gap-1.5 overflow-y-auto rounded-lg border border-line bg-surface p-3 shadow-lg">
          {COLUMN_CHOICES.map(([key, label]) => (
            <Checkbox
              key={key}
              label={label}
              checked={chosen.includes(key)}
              onChange={(event) =>
                onChange({
                  columns: (event.target.checked ? [...chosen, key] : chosen.filter((name) => name !== key)).join(","),
                })
              }
            />
          ))}
        </PopoverPanel>
      </Popover>
    </div>
  );
}

function ConditionForm({ onAdd }: { onAdd: (condition: Condition) => void }) {
  const [field, setField] = useState("heat");
  const [op, setOp] = useState<Condition["op"]>("is");
  const [value, setValue] = useState("hot");
  const needsValue = op !== "empty" && op !== "filled";
  const amount = parseMoney(value);
  const error = needsValue && isMoney(field) && !amount.ok ? "An amount such as 12.90." : undefined;
  const add = () => {
    if (error || (needsValue && value.trim() === "")) return;
    const asMills = isMoney(field) && amount.ok ? String(amount.mills) : value.trim();
    onAdd({ field, op, value: needsValue ? asMills : "" });
  };
  return (
    <form
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <Field label="Field">
        {(props) => (
          <Select {...props} value={field} onChange={(event) => setField(event.target.value)}>
            {FIELDS.map(([key, label]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Field label="Condition">
        {(props) => (
          <Select {...props} value={op} onChange={(event) => setOp(event.target.value as Condition["op"])}>
            {CONDITION_OPS.map((choice) => (
              <option key={choice} value={choice}>
                {OP_LABEL[choice]}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {needsValue && (
        <Field label="Value" error={error}>
          {(props) =>
            field === "heat" ? (
              <Select {...props} value={value} onChange={(event) => setValue(event.target.value)}>
                {HEATS.map((heat) => (
                  <option key={heat}>{heat}</option>
                ))}
              </Select>
            ) : (
              <TextInput {...props} value={value} onChange={(event) => setValue(event.target.value)} />
            )
          }
        </Field>
      )}
      <Button look="ember" type="submit" className="w-full justify-center">
        Add filter
      </Button>
    </form>
  );
}

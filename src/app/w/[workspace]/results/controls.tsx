"use client";

import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { CalendarDays } from "lucide-react";
import { METRICS, METRIC_KEYS } from "@/core/kit/metrics";
import { LEVEL_LABEL, LEVELS, sourceOf, type Level } from "@/core/results/levels";
import { Button } from "@/ui/button";
import { DayInput } from "@/ui/day-input";
import { Checkbox, Select } from "@/ui/field";
import { SearchSelect, type Choice } from "@/ui/search-select";
import { cx } from "@/ui/cx";
import { useFields } from "../catalogue/use-feeds";
import { COMPARES } from "./asks";
import { type useResultsView } from "./use-results";

const COMPARE_LABEL: Record<(typeof COMPARES)[number], string> = {
  before: "the days before",
  year: "the same days last year",
  range: "days of my choice",
  none: "nothing",
};

export const METRIC_FIELDS = METRIC_KEYS.map((name) => ({ name, label: METRICS[name].label }));

/** Catalogue fields that results can be read by: those with few enough values to compare. */
const MOST_VALUES = 2000;

/** By what results are read, what they are compared with, and in which language. */
export function ResultsControls({
  view,
  offered,
}: {
  view: ReturnType<typeof useResultsView>;
  offered: readonly Level[];
}) {
  const { state, setState } = view;
  const fields = useFields();
  const choices = fields.filter(
    ({ kind, distinct, name }) => kind === "text" && distinct <= MOST_VALUES && name !== "id",
  );
  const levels: Choice[] = [
    ...LEVELS.filter((level) => level !== "workspace").map((level) => ({
      ...{ value: level, label: LEVEL_LABEL[level][1], group: "" },
      disabled: !offered.includes(level),
    })),
    ...choices.map(({ name, label }) => ({
      ...{ value: `field:${name}`, label, group: "Fields of the catalogue" },
      disabled: !offered.includes("item"),
    })),
  ].filter(({ disabled }) => !disabled);
  // Only what some report divides by together with the level.
  const within = state.within.map(({ level }) => level);
  const splits = levels.filter(
    ({ value }) => value !== state.level && sourceOf([...within, state.level as Level, value as Level]) !== null,
  );
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-2 text-sm">
      <span className="flex items-center gap-2">
        By
        <SearchSelect
          label="Level"
          className="w-40"
          value={state.level}
          choices={levels}
          onChange={(level) => void setState({ level, q: "", where: [], sort: "" })}
        />
      </span>
      <span className="flex items-center gap-2">
        divided by
        <SearchSelect
          label="Split"
          className="w-40"
          value={state.split}
          choices={[{ value: "", label: "nothing" }, ...splits]}
          onChange={(split) => void setState({ split })}
        />
      </span>
      <label className="flex items-center gap-2">
        against
        <Select
          aria-label="Compared with"
          className="w-44!"
          value={state.compare}
          onChange={(event) => void setState({ compare: event.target.value as (typeof COMPARES)[number] })}
        >
          {COMPARES.map((choice) => (
            <option key={choice} value={choice}>
              {COMPARE_LABEL[choice]}
            </option>
          ))}
        </Select>
      </label>
      {state.compare === "range" && (
        <DayRange
          label="compared"
          from={state.cfrom}
          to={state.cto}
          onChange={(cfrom, cto) => void setState({ cfrom, cto })}
        />
      )}
      <Popover className="relative">
        <PopoverButton as={Button} look="quiet">
          <CalendarDays aria-hidden className="size-3.5" />
          {state.from || state.to ? `${state.from || "start"} – ${state.to || "end"}` : "Days"}
        </PopoverButton>
        <PopoverPanel className="absolute z-20 mt-1 space-y-2 rounded-lg border border-line bg-surface p-3 shadow-lg">
          <p className="text-soft">Days of your own choice instead of the window on top:</p>
          <DayRange
            label="shown"
            from={state.from}
            to={state.to}
            onChange={(from, to) => void setState({ from, to })}
          />
          <Button look="quiet" onClick={() => void setState({ from: "", to: "" })}>
            The window on top
          </Button>
        </PopoverPanel>
      </Popover>
      <Checkbox
        label="Late orders in"
        checked={state.complete}
        onChange={(event) => void setState({ complete: event.target.checked })}
      />
      <span role="group" aria-label="Spoken in" className="flex rounded-md border border-line">
        {(["return", "share"] as const).map((lang) => (
          <button
            key={lang}
            type="button"
            aria-pressed={state.lang === lang}
            className={cx(
              "h-8 px-3",
              state.lang === lang ? "bg-petrol-wash font-semibold" : "text-petrol hover:bg-raised",
            )}
            onClick={() => void setState({ lang, columns: "" })}
          >
            {lang === "return" ? "Return" : "Cost share"}
          </button>
        ))}
      </span>
    </div>
  );
}

/** First and last day; both empty follows the window on top of the page. */
function DayRange({
  label,
  from,
  to,
  onChange,
}: {
  label: string;
  from: string;
  to: string;
  onChange: (from: string, to: string) => void;
}) {
  return (
    <span className="flex items-center gap-1">
      <DayInput
        aria-label={`First day ${label}`}
        className="w-36!"
        value={from}
        onChange={(text) => onChange(text, to)}
      />
      –
      <DayInput
        aria-label={`Last day ${label}`}
        className="w-36!"
        value={to}
        onChange={(text) => onChange(from, text)}
      />
    </span>
  );
}

"use client";

import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { CalendarDays, ChevronLeft, ChevronRight } from "lucide-react";
import { useState, type ComponentProps } from "react";
import { DayPicker } from "react-day-picker";
import { dateOfDay, dayOfDate, dayWithYear, readTypedDay } from "@/core/kit/typed-day";
import { cx } from "./cx";
import { TextInput } from "./field";

const NAV = "grid size-7 place-items-center rounded-md text-petrol hover:bg-raised disabled:opacity-40";
const LOOK = {
  months: "relative",
  month_caption: "flex h-7 items-center pl-2 text-sm font-semibold",
  nav: "absolute top-0 right-0 flex",
  button_previous: NAV,
  button_next: NAV,
  weekday: "size-8 text-xs font-normal text-soft",
  day: "p-0 text-center",
  day_button: "num size-8 rounded-md text-sm hover:bg-raised disabled:hover:bg-transparent",
  selected: "*:bg-petrol! *:text-surface!",
  today: "font-bold",
  outside: "text-soft",
  disabled: "opacity-40",
};

interface DayInputProps extends Omit<ComponentProps<"input">, "value" | "onChange" | "type" | "min" | "max"> {
  /** `YYYY-MM-DD`; empty for none. */
  value: string;
  onChange: (day: string) => void;
  min?: string | undefined;
  max?: string | undefined;
}

/**
 * The one field for a day: typed in any usual way or picked from a calendar, and shown as all days here are, whatever language
 * the browser speaks. What can't be read, or could be two days, is said and changes nothing.
 */
export function DayInput({ value, onChange, min, max, className, disabled, ...rest }: DayInputProps) {
  const today = dayOfDate(new Date());
  const [typed, setTyped] = useState<string | null>(null);
  const isOdd = typed !== null && typed.trim() !== "" && readTypedDay(typed, value || today) === null;
  const change = (text: string) => {
    setTyped(text);
    const day = text.trim() === "" ? "" : readTypedDay(text, value || today);
    if (day !== null && day !== value) onChange(day);
  };
  const shownMonth = value || (max !== undefined && max < today ? max : min !== undefined && min > today ? min : today);
  return (
    <span className={cx("relative inline-block h-8 w-full", className)}>
      <TextInput
        {...rest}
        disabled={disabled}
        className="h-full! pr-8!"
        placeholder="e.g. 29 Oct"
        autoComplete="off"
        value={typed ?? (value === "" ? "" : dayWithYear(value))}
        onChange={(event) => change(event.target.value)}
        onBlur={() => !isOdd && setTyped(null)}
        {...(isOdd
          ? { "aria-invalid": true, title: "No day that can be read one way only. Write it as 29 Oct 2026." }
          : {})}
      />
      {isOdd && (
        <span role="alert" className="sr-only">
          No day that can be read one way only. Write it as 29 Oct 2026.
        </span>
      )}
      <Popover className="absolute inset-y-0 right-0">
        <PopoverButton
          disabled={disabled}
          aria-label="Calendar"
          className="grid h-full w-8 place-items-center rounded-md text-petrol disabled:opacity-40"
        >
          <CalendarDays aria-hidden className="size-3.5" />
        </PopoverButton>
        <PopoverPanel
          anchor={{ to: "bottom end", gap: 4 }}
          className="z-50 rounded-lg border border-line bg-surface p-3 text-ink shadow-lg"
        >
          {({ close }) => (
            <DayPicker
              mode="single"
              autoFocus
              weekStartsOn={1}
              defaultMonth={dateOfDay(shownMonth)}
              selected={value === "" ? undefined : dateOfDay(value)}
              disabled={[
                ...(min === undefined ? [] : [{ before: dateOfDay(min) }]),
                ...(max === undefined ? [] : [{ after: dateOfDay(max) }]),
              ]}
              onSelect={(date) => {
                setTyped(null);
                onChange(date ? dayOfDate(date) : "");
                close();
              }}
              classNames={LOOK}
              components={{
                Chevron: ({ orientation }) =>
                  orientation === "left" ? <ChevronLeft className="size-4" /> : <ChevronRight className="size-4" />,
              }}
            />
          )}
        </PopoverPanel>
      </Popover>
    </span>
  );
}

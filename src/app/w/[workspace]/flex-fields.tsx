"use client";

import { useState } from "react";
import type { Flex } from "@/core/account/records/campaign";
import { Field, TextInput } from "@/ui/field";

const MOST = { below: 90, above: 200 } as const;
const LABELS = { below: "Below the bid, at most %", above: "Above the bid, at most %" } as const;

/** How far the channel may go from a bid: a range in percent; empty fields are as `otherwise` says, null is what can't be read. */
export function FlexFields({
  value,
  otherwise,
  onChange,
}: {
  value: Flex | undefined;
  /** What holds while both are empty, such as that of the plan. */
  otherwise: Flex;
  onChange: (flex: Flex | null | undefined) => void;
}) {
  const start = (side: keyof Flex) => (value ? String(Math.round(100 * value[side])) : "");
  const [text, setText] = useState({ below: start("below"), above: start("above") });
  const share = (typed: string, side: keyof Flex) => {
    if (typed.trim() === "") return otherwise[side];
    const number = Number(typed.replace(",", "."));
    return number >= 0 && number <= MOST[side] ? number / 100 : null;
  };
  const type = (side: keyof Flex, typed: string) => {
    const next = { ...text, [side]: typed };
    setText(next);
    const [below, above] = [share(next.below, "below"), share(next.above, "above")];
    if (next.below.trim() === "" && next.above.trim() === "") onChange(undefined);
    else onChange(below === null || above === null ? null : { below, above });
  };
  return (["below", "above"] as const).map((side) => (
    <Field
      key={side}
      label={LABELS[side]}
      error={share(text[side], side) === null ? `A percentage from 0 to ${MOST[side]}.` : undefined}
    >
      {(props) => (
        <TextInput
          {...props}
          inputMode="decimal"
          placeholder={String(Math.round(100 * otherwise[side]))}
          value={text[side]}
          onChange={(event) => type(side, event.target.value)}
        />
      )}
    </Field>
  ));
}

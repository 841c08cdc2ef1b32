"use client";

import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { isElsewhere } from "@/core/account/off";
import { COUNTRIES, countryName } from "@/core/kit/countries";
import { Field, Select } from "@/ui/field";

/** The country that campaigns sell in. */
export function CountrySelect({
  value,
  empty = "anywhere it sells",
  onChange,
}: {
  value: string | undefined;
  /** What is chosen where none is. */
  empty?: string;
  onChange: (country: string | undefined) => void;
}) {
  return (
    <Field
      label="Country"
      hint={
        isElsewhere({ country: value })
          ? `The channel has shoppers in ${countryName(CHANNEL_LIMITS.country)} alone: no ads there.`
          : undefined
      }
    >
      {(props) => (
        <Select {...props} value={value ?? ""} onChange={(event) => onChange(event.target.value || undefined)}>
          <option value="">{empty}</option>
          {[...COUNTRIES]
            .sort((a, b) => countryName(a).localeCompare(countryName(b)))
            .map((code) => (
              <option key={code} value={code}>
                {countryName(code)}
              </option>
            ))}
        </Select>
      )}
    </Field>
  );
}

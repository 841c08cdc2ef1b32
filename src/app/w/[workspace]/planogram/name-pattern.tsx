"use client";

import {
  levelField,
  levelOf,
  MOST_NAME_PARTS,
  NAME_FIELDS,
  renderName,
  type NameField,
  type NamePattern,
  type NameValues,
} from "@/core/planogram/names";
import type { Choice } from "@/ui/search-select";
import { PartsEditor } from "../parts/parts-editor";

const FIELD_LABEL: Record<NameField, string> = {
  product: "Product",
  purpose: "Purpose",
  "campaign-kind": "Kind",
  match: "Match or reach",
  "first-day": "First day",
  planogram: "Planogram",
  campaign: "Campaign",
  number: "Number",
};

/** What a name can be made of: every split, then what the planogram knows besides. */
function choicesOf(levels: number, pattern: NamePattern, isOffered: (field: NameField) => boolean): Choice[] {
  const used = pattern.map((part) => (part.kind === "field" ? (levelOf(part.field) ?? 0) : 0));
  return [
    // A split that is gone is still named, so that one sees what to take out.
    ...Array.from({ length: Math.max(levels, ...used) }, (_, i) => ({
      value: levelField(i + 1),
      label: `Split ${i + 1}`,
      disabled: i >= levels,
    })),
    ...NAME_FIELDS.filter(isOffered).map((value) => ({ value, label: FIELD_LABEL[value] })),
  ];
}

/** A name made of chips and text: chips stand for values, text is typed between them. */
export function NamePatternEditor({
  label,
  value,
  levels,
  forAdGroup = false,
  forKeyword = false,
  example,
  onChange,
}: {
  label: string;
  value: NamePattern;
  levels: number;
  forAdGroup?: boolean;
  /** A keyword is made of splits, products and text alone. */
  forKeyword?: boolean;
  example: NameValues;
  onChange: (value: NamePattern) => void;
}) {
  const choices = choicesOf(levels, value, (field) =>
    forKeyword ? field === "product" : field !== "campaign" || forAdGroup,
  );
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <PartsEditor
        label={label}
        value={value}
        choices={choices}
        most={MOST_NAME_PARTS}
        onChange={(next) => next.length > 0 && onChange(next)}
      />
      <p className="mt-1 truncate text-xs text-soft">{renderName(value, example) || "Nothing yet: add a part."}</p>
    </fieldset>
  );
}

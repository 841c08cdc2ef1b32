"use client";

import { X } from "lucide-react";
import { renderName, type NamePart, type NamePattern, type NameValues } from "@/core/planogram/names";
import { Select } from "@/ui/field";

const PART_LABEL: Record<Exclude<NamePart["kind"], "text" | "level">, string> = {
  product: "Product",
  purpose: "Purpose",
  "campaign-kind": "Kind",
  match: "Match or reach",
  "first-day": "First day",
  planogram: "Planogram",
  campaign: "Campaign",
  number: "Number",
};

/** Parts that tell a setting of the planogram, or the place in its list. */
const SETTINGS: NamePart[] = [
  { kind: "planogram" },
  { kind: "purpose" },
  { kind: "campaign-kind" },
  { kind: "match" },
  { kind: "first-day" },
  { kind: "number" },
];

function labelOf(part: NamePart): string {
  if (part.kind === "text") return part.text;
  return part.kind === "level" ? `Split ${part.level}` : PART_LABEL[part.kind];
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
  const choices: NamePart[] = [
    { kind: "text", text: " " },
    ...Array.from({ length: levels }, (_, i): NamePart => ({ kind: "level", level: i + 1 })),
    { kind: "product" },
    ...(forKeyword ? [] : SETTINGS),
    ...(forAdGroup ? [{ kind: "campaign" } as NamePart] : []),
  ];
  const replace = (at: number, part: NamePart | null) => {
    const next = value.flatMap((old, i) => (i === at ? (part ? [part] : []) : [old]));
    if (next.length > 0) onChange(next);
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <div className="flex flex-wrap items-center gap-1">
        {value.map((part, i) =>
          part.kind === "text" ? (
            <input
              key={i}
              aria-label={`${label}: text ${i + 1}`}
              className="h-7 rounded border border-line bg-surface px-1.5 text-sm"
              style={{ width: `${Math.max(4, part.text.length + 3)}ch` }}
              value={part.text}
              onChange={(event) => replace(i, { kind: "text", text: event.target.value })}
              onKeyDown={(event) => event.key === "Backspace" && part.text === "" && replace(i, null)}
            />
          ) : (
            <span key={i} className="inline-flex h-7 items-center gap-1 rounded bg-petrol-wash pr-1 pl-2 text-sm">
              {labelOf(part)}
              <button type="button" aria-label={`Remove ${labelOf(part)}`} onClick={() => replace(i, null)}>
                <X aria-hidden className="size-3" />
              </button>
            </span>
          ),
        )}
        <Select
          aria-label={`Add to ${label.toLowerCase()}`}
          className="h-7! w-24!"
          value=""
          onChange={(event) => {
            const part = choices[Number(event.target.value)];
            if (part && value.length < 12) onChange([...value, part]);
          }}
        >
          <option value="">Add …</option>
          {choices.map((part, i) => (
            <option key={i} value={i}>
              {part.kind === "text" ? "Text" : labelOf(part)}
            </option>
          ))}
        </Select>
      </div>
      <p className="mt-1 truncate text-xs text-soft">{renderName(value, example) || "Nothing yet: add a part."}</p>
    </fieldset>
  );
}

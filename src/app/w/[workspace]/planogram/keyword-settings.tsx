"use client";

import { Plus, X } from "lucide-react";
import { MATCH_TYPES } from "@/core/channel/match-types";
import type { NameValues } from "@/core/planogram/names";
import { field } from "@/core/parts/part";
import { levelField } from "@/core/planogram/names";
import type { Planogram } from "@/core/planogram/planogram";
import { Button } from "@/ui/button";
import { Checkbox } from "@/ui/field";
import { NamePatternEditor } from "./name-pattern";

type Keywords = NonNullable<Planogram["keywords"]>;

/** A pattern to begin with: what ad groups are told apart by, since that is how people call the things in them. */
export function startKeywords({ adGroupLine, ladder }: Planogram): Keywords {
  return {
    patterns: [[field(levelField(Math.max(1, Math.min(adGroupLine, ladder.length))))]],
    matches: ["exact", "phrase"],
  };
}

/** What the keywords of every ad group are made of, and how they match. */
export function KeywordSettings({
  value,
  levels,
  example,
  onChange,
}: {
  value: Keywords;
  levels: number;
  example: NameValues;
  onChange: (value: Keywords) => void;
}) {
  const { patterns, matches } = value;
  return (
    <div className="space-y-2">
      {patterns.map((pattern, i) => (
        <div key={i} className="flex items-start gap-2">
          <div className="min-w-0 flex-1">
            <NamePatternEditor
              label={`Keyword ${i + 1}`}
              value={pattern}
              levels={levels}
              forKeyword
              example={example}
              onChange={(next) => onChange({ ...value, patterns: patterns.map((old, at) => (at === i ? next : old)) })}
            />
          </div>
          {patterns.length > 1 && (
            <button
              type="button"
              aria-label={`Remove keyword ${i + 1}`}
              className="mt-1 rounded p-1 text-soft hover:bg-raised"
              onClick={() => onChange({ ...value, patterns: patterns.filter((_, at) => at !== i) })}
            >
              <X aria-hidden className="size-4" />
            </button>
          )}
        </div>
      ))}
      <Button
        look="quiet"
        disabled={patterns.length >= 20}
        onClick={() => onChange({ ...value, patterns: [...patterns, [field(levelField(1))]] })}
      >
        <Plus aria-hidden className="size-3.5" /> Another pattern
      </Button>
      <fieldset className="flex gap-3">
        <legend className="mb-1 text-sm font-medium">Match</legend>
        {MATCH_TYPES.map((match) => (
          <Checkbox
            key={match}
            label={match}
            checked={matches.includes(match)}
            disabled={matches.length === 1 && matches.includes(match)}
            onChange={(event) =>
              onChange({
                ...value,
                matches: MATCH_TYPES.filter((other) =>
                  other === match ? event.target.checked : matches.includes(other),
                ),
              })
            }
          />
        ))}
      </fieldset>
    </div>
  );
}

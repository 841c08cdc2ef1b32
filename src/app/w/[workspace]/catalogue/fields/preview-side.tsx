"use client";

import { formatCount, plural } from "@/core/kit/format";
import type { DerivedPreviewView } from "@/server/catalogue/derived-preview";
import { Field, TextInput } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { Examples } from "./rule-card";

/** What all rules together do: how many items they catch, what is left, what values come out, and single items. */
export function PreviewSide({
  preview,
  lookUp,
  onLookUp,
}: {
  preview: DerivedPreviewView | undefined;
  lookUp: string;
  onLookUp: (text: string) => void;
}) {
  if (!preview) return <Loading what="the preview" />;
  const widest = preview.values[0]?.count ?? 1;
  return (
    <>
      <Surface title="What the rules do">
        <dl className="grid grid-cols-3 gap-2 num">
          <div>
            <dt className="text-xs text-soft">Caught</dt>
            <dd className="font-display text-xl font-semibold">{formatCount(preview.caught)}</dd>
          </div>
          <div>
            <dt className="text-xs text-soft">By no rule</dt>
            <dd className="font-display text-xl font-semibold">{formatCount(preview.caughtByNone)}</dd>
          </div>
          <div>
            <dt className="text-xs text-soft" title="Several rules with conditions hold; the first decides.">
              By several
            </dt>
            <dd className="font-display text-xl font-semibold">{formatCount(preview.caughtTwice)}</dd>
          </div>
        </dl>
        {preview.values.length > 0 && (
          <ul className="mt-3 space-y-1 text-sm">
            {preview.values.map(({ value, count }) => (
              <li key={value} className="grid grid-cols-[minmax(0,1fr)_70px_52px] items-center gap-2">
                <span className="truncate" title={value}>
                  {value}
                </span>
                <span className="h-2 rounded-full bg-petrol" style={{ width: `${(100 * count) / widest}%` }} />
                <span className="text-right num">{formatCount(count)}</span>
              </li>
            ))}
          </ul>
        )}
      </Surface>
      {preview.noneExamples.length > 0 && (
        <Surface title="Caught by no rule">
          <Titles rows={preview.noneExamples.map(({ row }) => row)} preview={preview} />
        </Surface>
      )}
      {preview.twiceExamples.length > 0 && (
        <Surface title="Caught by several">
          <ul className="space-y-1 text-sm">
            {preview.twiceExamples.map(({ row, rules, rule, after }) => (
              <li key={row}>
                <span className="block truncate">{preview.items[row]?.title}</span>
                <span className="text-xs text-soft num">
                  rules {rules.map((no) => no + 1).join(" and ")};{" "}
                  {rule === null ? "none of them gives a value" : `rule ${rule + 1} gives “${after[0] ?? ""}”`}
                </span>
              </li>
            ))}
          </ul>
        </Surface>
      )}
      <Surface title="Look single items up">
        <Field label="Item IDs">
          {(props) => (
            <TextInput
              {...props}
              className="font-mono text-xs"
              placeholder="Q00010, Q00020"
              value={lookUp}
              onChange={(event) => onLookUp(event.target.value)}
            />
          )}
        </Field>
        {preview.unknownItems.length > 0 && (
          <p className="mt-1 text-sm font-semibold text-ember">
            {plural(preview.unknownItems.length, "ID")} not in the catalogue:{" "}
            {preview.unknownItems.slice(0, 4).join(", ")}
          </p>
        )}
        {preview.lookedUp.length > 0 && (
          <div className="mt-2">
            <Examples examples={preview.lookedUp} preview={preview} withRule />
          </div>
        )}
      </Surface>
    </>
  );
}

function Titles({ rows, preview }: { rows: number[]; preview: DerivedPreviewView }) {
  return (
    <ul className="space-y-0.5 text-sm">
      {rows.map((row) => (
        <li key={row} className="truncate" title={preview.items[row]?.id}>
          {preview.items[row]?.title}
        </li>
      ))}
    </ul>
  );
}

"use client";

import { Plus, Trash2, X } from "lucide-react";
import { useState } from "react";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { AdLine, LinePart } from "@/core/account/records/ad-lines";
import type { LineList } from "@/core/assets/ad-line";
import type { LineReadiness } from "@/core/assets/readiness";
import { formatCount, plural } from "@/core/kit/format";
import type { AssetLook } from "@/server/assets/asset-groups";
import { Button } from "@/ui/button";
import { SearchSelect, type Choice } from "@/ui/search-select";
import { shortened } from "./asset-readiness";

const ONE: Record<LineList, string> = { headlines: "Headline", descriptions: "Description" };

/** Lines of one list: texts typed between chips that stand for fields. Several lines can be pasted at once. */
export function AssetLines({
  list,
  value,
  fields,
  look,
  onChange,
}: {
  list: LineList;
  value: AdLine[];
  fields: Choice[];
  look: AssetLook | undefined;
  onChange: (value: AdLine[]) => void;
}) {
  const { least, most, length } = CHANNEL_LIMITS.assets[list];
  const replace = (at: number, lines: AdLine[]) => onChange(value.toSpliced(at, 1, ...lines));
  return (
    <fieldset className="space-y-2">
      <legend className="text-sm font-semibold">
        {ONE[list]}s{" "}
        <span className="font-normal text-soft num">
          {value.length}, {least} to {most} of {length} characters
        </span>
      </legend>
      {value.map((line, at) => (
        <AssetLine
          key={at}
          label={`${ONE[list]} ${at + 1}`}
          value={line}
          fields={fields}
          told={look?.readiness.lines.find((one) => one.list === list && one.at === at)}
          names={look?.names ?? {}}
          length={length}
          onChange={(lines) => replace(at, lines)}
        />
      ))}
      <Button look="quiet" onClick={() => onChange([...value, [{ kind: "text", text: "" }]])}>
        <Plus aria-hidden className="size-3.5" /> Add a {ONE[list].toLowerCase()}
      </Button>
    </fieldset>
  );
}

function AssetLine({
  label,
  value,
  fields,
  told,
  names,
  length,
  onChange,
}: {
  label: string;
  value: AdLine;
  fields: Choice[];
  told: LineReadiness | undefined;
  names: AssetLook["names"];
  length: number;
  /** The line as it is now; none takes it out, more come from pasting. */
  onChange: (lines: AdLine[]) => void;
}) {
  const [adding, setAdding] = useState(false);
  const set = (at: number, part: LinePart | null) => {
    const next = value.toSpliced(at, 1, ...(part ? [part] : []));
    onChange(next.length === 0 ? [] : [next]);
  };
  const labelOf = (name: string) => fields.find(({ value: own }) => own === name)?.label ?? name;
  const last = value.at(-1);
  return (
    <div role="group" aria-label={label} className="rounded-md border border-line px-2 py-1.5">
      <div className="flex flex-wrap items-center gap-1">
        {value.map((part, at) =>
          part.kind === "text" ? (
            <input
              key={at}
              aria-label={`${label}: text ${at + 1}`}
              className="h-7 max-w-full rounded border border-line bg-surface px-1.5 text-sm"
              style={{ width: `${Math.max(6, part.text.length + 3)}ch` }}
              value={part.text}
              onChange={(event) => set(at, { kind: "text", text: event.target.value })}
              onKeyDown={(event) => event.key === "Backspace" && part.text === "" && set(at, null)}
              onPaste={(event) => {
                const lines = event.clipboardData
                  .getData("text")
                  .split(/\r?\n/)
                  .filter((line) => line.trim() !== "");
                if (lines.length < 2) return;
                event.preventDefault();
                const [first = "", ...rest] = lines;
                onChange([
                  value.toSpliced(at, 1, { kind: "text", text: part.text + first.trim() }),
                  ...rest.map((line): AdLine => [{ kind: "text", text: line.trim() }]),
                ]);
              }}
            />
          ) : (
            <span key={at} className="inline-flex h-7 items-center gap-1 rounded bg-petrol-wash pr-1 pl-2 text-sm">
              {labelOf(part.field)}
              <button type="button" aria-label={`Remove ${labelOf(part.field)}`} onClick={() => set(at, null)}>
                <X aria-hidden className="size-3" />
              </button>
            </span>
          ),
        )}
        {adding ? (
          <SearchSelect
            label={`Field for ${label.toLowerCase()}`}
            className="w-40"
            value=""
            choices={fields}
            placeholder="a field"
            onChange={(field) => {
              setAdding(false);
              const more: LinePart = { kind: "field", field };
              // An empty text at the end gives way to the field.
              onChange([last?.kind === "text" && last.text === "" ? [...value.slice(0, -1), more] : [...value, more]]);
            }}
          />
        ) : (
          <Button look="quiet" className="h-7! px-1.5!" onClick={() => setAdding(true)}>
            + field
          </Button>
        )}
        {last?.kind === "field" && (
          <Button
            look="quiet"
            className="h-7! px-1.5!"
            onClick={() => onChange([[...value, { kind: "text", text: " " }]])}
          >
            + text
          </Button>
        )}
        <button
          type="button"
          aria-label={`Remove ${label.toLowerCase()}`}
          className="ml-auto rounded p-1 text-soft hover:bg-raised"
          onClick={() => onChange([])}
        >
          <Trash2 aria-hidden className="size-3.5" />
        </button>
      </div>
      {told && <LineTold told={told} names={names} length={length} />}
    </div>
  );
}

/** For how many items a line can be shown, and where not. */
function LineTold({ told, names, length }: { told: LineReadiness; names: AssetLook["names"]; length: number }) {
  const { fits, gap, long, longest, gapAt } = told;
  return (
    <p className="mt-1 text-xs text-soft num">
      {long + gap === 0 ? "fits all" : `fits ${formatCount(fits)}`}
      {long > 0 && longest && (
        <span className="text-ember">
          {" · "}
          {formatCount(long)} too long, up to {longest.length} of {length}: “{shortened(longest.text)}”
        </span>
      )}
      {gap > 0 && gapAt && (
        <span className="text-ember">
          {" · "}
          {plural(gap, "item")} would leave a gap
          {gapAt.fields.length > 0 && `, such as ${names[gapAt.row]?.id ?? "one"} without ${gapAt.fields.join(", ")}`}
        </span>
      )}
      {long === 0 && longest && ` · longest ${longest.length} of ${length}`}
    </p>
  );
}

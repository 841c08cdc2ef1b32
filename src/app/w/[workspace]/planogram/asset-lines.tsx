"use client";

import { Plus, Trash2 } from "lucide-react";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { AdLine } from "@/core/account/records/ad-lines";
import type { LineList } from "@/core/assets/ad-line";
import type { LineReadiness } from "@/core/assets/readiness";
import { formatCount, plural } from "@/core/kit/format";
import type { AssetLook } from "@/server/assets/asset-groups";
import { Button } from "@/ui/button";
import type { Choice } from "@/ui/search-select";
import { PartsEditor } from "../parts/parts-editor";
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
  return (
    <div role="group" aria-label={label} className="rounded-md border border-line px-2 py-1.5">
      <PartsEditor
        label={label}
        value={value}
        choices={fields}
        onChange={(next) => onChange(next.length === 0 ? [] : [next])}
        onPasteLines={onChange}
      >
        <button
          type="button"
          aria-label={`Remove ${label.toLowerCase()}`}
          className="ml-auto rounded p-1 text-soft hover:bg-raised"
          onClick={() => onChange([])}
        >
          <Trash2 aria-hidden className="size-3.5" />
        </button>
      </PartsEditor>
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

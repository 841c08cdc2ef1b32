import { useState } from "react";
import { MILLS_PER_UNIT } from "@/core/kit/money";
import { FAMILY_PREFIX, metricLabel, metricOfName, SHELF_METRICS } from "@/core/shelves/shelf-metrics";
import type { BandShelf, Cut, ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import { Button } from "@/ui/button";
import { DayInput } from "@/ui/day-input";
import { Checkbox, Field, Select, TextInput } from "@/ui/field";
import { SearchSelect, type Choice } from "@/ui/search-select";
import { WhereBuilder, type FieldChoice } from "../catalogue/where-builder";
import { NumberInput } from "./builder-settings";
import { PicksDialog } from "./picks-dialog";
import { kindOfMetric } from "./use-shelf-fields";

const METRIC_CHOICES: Choice[] = Object.values(SHELF_METRICS).flatMap(({ key, label, group, ofFamily }) => [
  { value: key, label, group },
  ...(ofFamily
    ? [{ value: FAMILY_PREFIX + key, label: metricLabel(FAMILY_PREFIX + key), group: "Of the whole family" }]
    : []),
]);
// One group after another, whatever order they are defined in.
METRIC_CHOICES.sort((a, b) => groupPlace(a) - groupPlace(b));

function groupPlace({ group }: Choice): number {
  return ["Ads", "Whole store", "Both", "Evidence", "Item"].indexOf(group ?? "") >>> 0;
}

/** Edits one shelf of a set. */
export function ShelfEditor({
  set,
  isKept,
  shelf,
  fields,
  onChange,
}: {
  set: ShelfSet;
  /** Whether the set is kept already, so that lists can be put on its shelves. */
  isKept: boolean;
  shelf: ShelfRule;
  fields: FieldChoice[];
  onChange: (shelf: ShelfRule) => void;
}) {
  return (
    <div className="space-y-3">
      {shelf.kind === "band" && <BandEditor band={shelf} onChange={onChange} />}
      {shelf.kind === "rule" && (
        <WhereBuilder where={shelf.where} fields={fields} onChange={(where) => onChange({ ...shelf, where })} />
      )}
      {shelf.kind === "pick" && <PickEditor set={set} isKept={isKept} shelf={shelf} onChange={onChange} />}
      <div className="grid grid-cols-[1.2fr_0.7fr_2fr_1fr] gap-3">
        <Field label="Name">
          {(props) => (
            <TextInput
              {...props}
              value={shelf.name}
              onChange={(event) => onChange({ ...shelf, name: event.target.value })}
            />
          )}
        </Field>
        <Field label="Goal of its own">
          {(props) => <NumberInput {...props} value={shelf.goal} onChange={(goal) => onChange({ ...shelf, goal })} />}
        </Field>
        <Field label="Reason, note">
          {(props) => (
            <TextInput
              {...props}
              value={shelf.note}
              onChange={(event) => onChange({ ...shelf, note: event.target.value })}
            />
          )}
        </Field>
        <Field label="Look again on">
          {(props) => (
            <DayInput
              {...props}
              value={shelf.lookAgain ?? ""}
              onChange={(text) => onChange({ ...shelf, lookAgain: text || null })}
            />
          )}
        </Field>
      </div>
    </div>
  );
}

/** A cut of each kind to begin with, when one chooses another kind. */
const FRESH: Record<Cut["by"], Cut> = {
  value: { by: "value", at: 1 },
  middle: { by: "middle", of: "median", times: 1 },
  quantile: { by: "quantile", q: 0.75, weight: "items" },
  count: { by: "count", n: 10 },
  share: { by: "share", share: 0.2 },
};

const CUT_LABEL: Record<Cut["by"], string> = {
  value: "a value",
  middle: "the midpoint",
  quantile: "a quantile",
  count: "so many items",
  share: "a share of items",
};

function BandEditor({ band, onChange }: { band: BandShelf; onChange: (shelf: ShelfRule) => void }) {
  const { cut, side } = band;
  const about = metricOfName(band.metric)?.metric.about;
  const isRank = cut?.by === "count" || cut?.by === "share";
  return (
    <div className="space-y-1">
      <div className="flex flex-wrap items-center gap-2">
        <SearchSelect
          label="Metric"
          className="w-56!"
          value={band.metric}
          choices={METRIC_CHOICES}
          onChange={(metric) => onChange({ ...band, metric })}
        />
        <Select
          aria-label="Side of the cut"
          className="w-36!"
          value={side}
          onChange={(event) => {
            const next = event.target.value as BandShelf["side"];
            onChange({ ...band, side: next, cut: next === "any" ? null : (cut ?? FRESH.value) });
          }}
        >
          <option value="above">{isRank ? "the top" : "at least"}</option>
          <option value="below">{isRank ? "the bottom" : "under"}</option>
          <option value="any">all that are left</option>
        </Select>
        {cut && (
          <>
            <Select
              aria-label="Cut at"
              className="w-40!"
              value={cut.by}
              onChange={(event) => onChange({ ...band, cut: FRESH[event.target.value as Cut["by"]] })}
            >
              {Object.entries(CUT_LABEL).map(([by, label]) => (
                <option key={by} value={by}>
                  {label}
                </option>
              ))}
            </Select>
            <CutNumbers cut={cut} metric={band.metric} onChange={(next) => onChange({ ...band, cut: next })} />
          </>
        )}
        <Checkbox
          label="only what is read"
          checked={band.evidence}
          onChange={(event) => onChange({ ...band, evidence: event.target.checked })}
        />
      </div>
      {about && <p className="text-xs text-soft">{about}</p>}
    </div>
  );
}

function CutNumbers({ cut, metric, onChange }: { cut: Cut; metric: string; onChange: (cut: Cut) => void }) {
  const kind = kindOfMetric(metric);
  const factor = kind === "money" ? MILLS_PER_UNIT : kind === "share" ? 0.01 : 1;
  switch (cut.by) {
    case "value":
      return (
        <>
          <NumberInput
            aria-label="Value"
            className="w-24!"
            value={cut.at / factor}
            onChange={(value) => onChange({ ...cut, at: value === null ? NaN : value * factor })}
          />
          {kind === "share" && <span className="text-soft">%</span>}
        </>
      );
    case "middle":
      return (
        <>
          <NumberInput
            aria-label="Times"
            className="w-16!"
            value={cut.times}
            onChange={(times) => onChange({ ...cut, times: times ?? NaN })}
          />
          <span className="text-soft">times</span>
          <Select
            aria-label="Midpoint"
            className="w-44!"
            value={cut.of}
            onChange={(event) => onChange({ ...cut, of: event.target.value as "median" })}
          >
            <option value="median">the median</option>
            <option value="mean">the mean</option>
            <option value="range">the middle of the range</option>
          </Select>
        </>
      );
    case "quantile":
      return (
        <>
          <NumberInput
            aria-label="Quantile, percent"
            className="w-20!"
            value={cut.q * 100}
            onChange={(q) => onChange({ ...cut, q: q === null ? NaN : q / 100 })}
          />
          <span className="text-soft">%, by</span>
          <Select
            aria-label="Weighed by"
            className="w-28!"
            value={cut.weight}
            onChange={(event) => onChange({ ...cut, weight: event.target.value as "items" })}
          >
            <option value="items">items</option>
            <option value="cost">spend</option>
            <option value="revenue">ad sales</option>
          </Select>
        </>
      );
    case "count":
      return (
        <NumberInput
          aria-label="Items"
          className="w-24!"
          value={cut.n}
          onChange={(n) => onChange({ ...cut, n: n ?? NaN })}
        />
      );
    case "share":
      return (
        <>
          <NumberInput
            aria-label="Share, percent"
            className="w-20!"
            value={cut.share * 100}
            onChange={(share) => onChange({ ...cut, share: share === null ? NaN : share / 100 })}
          />
          <span className="text-soft">%</span>
        </>
      );
  }
}

function PickEditor({
  set,
  isKept,
  shelf,
  onChange,
}: {
  set: ShelfSet;
  isKept: boolean;
  shelf: Extract<ShelfRule, { kind: "pick" }>;
  onChange: (shelf: ShelfRule) => void;
}) {
  const [isOpen, setOpen] = useState(false);
  return (
    <div className="flex items-center gap-3">
      {isKept ? (
        <Button onClick={() => setOpen(true)}>Open its list</Button>
      ) : (
        <p className="text-sm text-soft">
          Keep the set first; then paste a list here, or put items on it from the catalogue.
        </p>
      )}
      <Checkbox
        label="with all members of their families"
        checked={shelf.families}
        onChange={(event) => onChange({ ...shelf, families: event.target.checked })}
      />
      {isOpen && <PicksDialog set={set.key} shelf={shelf.key} name={shelf.name} onClose={() => setOpen(false)} />}
    </div>
  );
}

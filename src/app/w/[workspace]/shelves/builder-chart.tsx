import type { Histogram } from "@/core/shelves/histogram";
import { metricLabel } from "@/core/shelves/shelf-metrics";
import type { BandShelf, ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { CUT_CHART_HEIGHT, CutChart, type CutMark } from "./cut-chart";
import { metricText } from "./shelf-words";

/** The distribution of the metric that is being cut, of the open band or else of the first, with all its cuts on it. */
export function BuilderChart({
  draft,
  open,
  cuts,
  onChange,
}: {
  draft: ShelfSet;
  open: string | null;
  /** Where cuts that follow the catalogue fall, by place. */
  cuts: (number | null)[];
  onChange: (at: number, shelf: ShelfRule) => void;
}) {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const bands = draft.shelves.filter((shelf): shelf is BandShelf => shelf.kind === "band");
  const shown = bands.find(({ key }) => key === open) ?? bands[0];
  const { windowDays, goal, leastClicks, leastOrders } = draft;
  const asked = shown && { metric: shown.metric, evidence: shown.evidence, windowDays, goal, leastClicks, leastOrders };
  const key = useSettled(JSON.stringify(asked ?? null), 200);
  const bars = useAsk<Histogram>(apiPath("shelf-sets/distribution"), JSON.parse(key), {
    enabled: key !== "null" && !Object.values(asked ?? {}).some((value) => Number.isNaN(value)),
    placeholderData: (before) => before,
  });
  if (!shown || bars.isError) return null;
  const text = (value: number) => metricText(shown.metric, value, currency);
  const marks = draft.shelves.flatMap((shelf, at): CutMark[] => {
    if (shelf.kind !== "band" || shelf.metric !== shown.metric || shelf.cut === null) return [];
    const { key: id, name, cut } = shelf;
    if (cut.by !== "value") {
      const value = cuts[at] ?? null;
      return value === null ? [] : [{ key: id, name, value, text: text(value) }];
    }
    if (Number.isNaN(cut.at)) return [];
    return [
      {
        key: id,
        name,
        value: cut.at,
        text: text(cut.at),
        onMove: (to) => onChange(at, { ...shelf, cut: { by: "value", at: to } }),
      },
    ];
  });
  return (
    <section className="rounded-lg border border-line bg-surface p-3" aria-label="Distribution">
      {/* Its place is kept while it is on its way: the shelves below must not move under somebody's hand. */}
      {bars.data ? (
        <CutChart bars={bars.data} label={metricLabel(shown.metric)} marks={marks} text={text} />
      ) : (
        <div style={{ height: CUT_CHART_HEIGHT }} />
      )}
    </section>
  );
}

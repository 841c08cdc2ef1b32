import Link from "next/link";
import { dayLabel, parseDay } from "@/core/kit/days";
import { metricLabel } from "@/core/shelves/shelf-metrics";
import type { ItemDetail } from "@/server/across/catalogue/item-detail";
import { HeatGlyph } from "@/ui/heat";
import { useWorkspace } from "../../../_lib/workspace";
import { metricText } from "../shelves/shelf-words";

/** Stays told beside the one of today. */
const MOST = 3;

/** The shelf an item stands on in one set, since when and why, and where it stood before. */
export function ShelfStays({ shelf, stays }: { shelf: ItemDetail["shelves"][number]; stays: ItemDetail["stays"] }) {
  const { slug, currency } = useWorkspace();
  const [now, ...before] = stays;
  const day = (text: string) => dayLabel(parseDay(text));
  const value = ({ metric, value: amount }: ItemDetail["stays"][number]) =>
    metric !== null && amount !== null ? `${metricLabel(metric)} ${metricText(metric, amount, currency)}, ` : "";
  return (
    <li>
      On{" "}
      <Link className="font-semibold hover:underline" href={`/w/${slug}/shelves?set=${shelf.set}`}>
        {shelf.heat && <HeatGlyph heat={shelf.heat} />} {shelf.shelf}
      </Link>{" "}
      of {shelf.setName}
      {now && (
        <span className="text-sm text-soft num">
          {" "}
          since {day(now.since)} ({value(now)}
          {now.why})
        </span>
      )}
      {before.length > 0 && (
        <span className="block pl-4 text-xs text-soft num">
          before:{" "}
          {before
            .slice(0, MOST)
            .map((stay, i) => `${stay.shelf} until ${day(stays[i]!.since)}`)
            .join("; ")}
          {before.length > MOST && ` and ${before.length - MOST} earlier`}
        </span>
      )}
    </li>
  );
}

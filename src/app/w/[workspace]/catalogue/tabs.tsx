import { formatCount } from "@/core/kit/format";
import { StageTabs } from "../stage-tabs";
import type { FeedsAnswer } from "./use-feeds";

/** The parts of the catalogue stage; how many faults wait stands beside theirs, and a mark where the feed has trouble. */
export function CatalogueTabs({ feeds }: { feeds: FeedsAnswer | undefined }) {
  const faults = feeds?.diagnostics.filter(({ severity }) => severity !== "note").length ?? 0;
  return (
    <StageTabs
      label="Parts of the catalogue"
      stage="catalogue"
      tabs={[
        { path: "", label: "Items" },
        {
          path: "/feed",
          label: "Feed",
          mark: feeds?.feeds[0]?.trouble && <span className="ml-1.5 font-bold text-ember">!</span>,
        },
        { path: "/fields", label: "Fields" },
        { path: "/categories", label: "Categories" },
        {
          path: "/faults",
          label: "Faults",
          mark: faults > 0 && <span className="ml-1.5 text-xs text-soft num">{formatCount(faults)}</span>,
        },
      ]}
    />
  );
}

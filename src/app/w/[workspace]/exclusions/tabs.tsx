import { StageTabs } from "../stage-tabs";

const TABS = [
  { path: "", label: "Kept out" },
  { path: "/placements", label: "Placements" },
];

/** The parts of the exclusions stage. */
export function ExclusionsTabs() {
  return <StageTabs label="Parts of the exclusions" stage="exclusions" tabs={TABS} />;
}

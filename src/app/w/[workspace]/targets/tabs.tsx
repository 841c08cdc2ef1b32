import { StageTabs } from "../stage-tabs";

const TABS = [
  { path: "", label: "Aimed at" },
  { path: "/keywords", label: "Keywords" },
  { path: "/ledger", label: "Ledger" },
  { path: "/listings", label: "Listings" },
  { path: "/defence", label: "Defence" },
  { path: "/demand", label: "Demand" },
];

/** The parts of the targets stage. */
export function TargetsTabs() {
  return <StageTabs label="Parts of the targets" stage="targets" tabs={TABS} />;
}

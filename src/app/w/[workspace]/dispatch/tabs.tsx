import { StageTabs } from "../stage-tabs";

const TABS = [
  { path: "", label: "Basket and sent" },
  { path: "/channel", label: "Channel" },
];

/** The parts of the dispatch stage. */
export function DispatchTabs() {
  return <StageTabs label="Parts of the dispatch" stage="dispatch" tabs={TABS} />;
}

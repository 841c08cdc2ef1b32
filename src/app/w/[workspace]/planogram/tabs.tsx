import { StageTabs } from "../stage-tabs";

const TABS = [
  { path: "", label: "Structure" },
  { path: "/assets", label: "Asset groups" },
];

/** The parts of the planogram stage. */
export function PlanogramTabs() {
  return <StageTabs label="Parts of the planogram" stage="planogram" tabs={TABS} />;
}

import { StageTabs } from "../stage-tabs";

const TABS = [
  { path: "", label: "Shelves" },
  { path: "/movements", label: "Movements" },
  { path: "/claims", label: "Claims" },
  { path: "/labels", label: "Labels" },
];
const CARRY = ["days", "set"] as const;

/** The parts of the shelves stage. */
export function ShelvesTabs() {
  return <StageTabs label="Parts of the shelves" stage="shelves" tabs={TABS} carry={CARRY} />;
}

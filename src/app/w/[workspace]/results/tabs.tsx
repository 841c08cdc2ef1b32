import { StageTabs } from "../stage-tabs";

const TABS = [
  { path: "", label: "Results" },
  { path: "/reports", label: "Report files" },
  { path: "/market", label: "Test market" },
];

/** The parts of the results stage. */
export function ResultsTabs() {
  return <StageTabs label="Parts of the results" stage="results" tabs={TABS} />;
}

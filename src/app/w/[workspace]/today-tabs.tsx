import { StageTabs } from "./stage-tabs";

const TABS = [
  { path: "", label: "Today" },
  { path: "/weeks", label: "Weeks" },
  { path: "/alerts", label: "Alerts" },
];

/** The parts of what is told by itself: what asks today, how weeks went, what is watched. */
export function TodayTabs() {
  return <StageTabs label="Parts of today" stage="" tabs={TABS} />;
}

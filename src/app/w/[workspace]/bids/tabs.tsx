"use client";

import { StageTabs } from "../stage-tabs";

/** The parts of the bids stage. */
export function BidsTabs() {
  return (
    <StageTabs
      label="Parts of bids"
      stage="bids"
      tabs={[
        { path: "", label: "Bids" },
        { path: "/page-work", label: "Page, not bid" },
      ]}
    />
  );
}

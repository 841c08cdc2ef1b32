"use client";

import { StageTabs } from "../stage-tabs";

/** The parts of the moves room. */
export function MovesTabs() {
  return (
    <StageTabs
      label="Parts of moves"
      stage="moves"
      tabs={[
        { path: "", label: "To decide" },
        { path: "/orders", label: "Standing orders" },
        { path: "/record", label: "What came of them" },
        { path: "/rules", label: "House rules" },
      ]}
    />
  );
}

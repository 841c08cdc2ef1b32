/** The stages that work, in the order of the job. */
export const STAGES: { group: string; stages: { path: string; label: string }[] }[] = [
  {
    group: "Stock",
    stages: [
      { path: "catalogue", label: "Catalogue" },
      { path: "shelves", label: "Shelves" },
    ],
  },
  {
    group: "Build",
    stages: [
      { path: "planogram", label: "Planogram" },
      { path: "copy", label: "Copy" },
      { path: "targets", label: "Targets" },
    ],
  },
  {
    group: "Spend",
    stages: [
      { path: "bids", label: "Bids" },
      { path: "budgets", label: "Budgets" },
      { path: "exclusions", label: "Exclusions" },
    ],
  },
  {
    group: "Run",
    stages: [
      { path: "moves", label: "Moves" },
      { path: "dispatch", label: "Dispatch" },
      { path: "results", label: "Results" },
      { path: "experiments", label: "Experiments" },
      { path: "stocktake", label: "Stocktake" },
    ],
  },
];

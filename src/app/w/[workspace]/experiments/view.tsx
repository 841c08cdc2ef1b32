"use client";

import { useEffect, useState } from "react";
import { MEASURES } from "@/core/experiments/measures";
import { changeOfMeasure } from "@/core/experiments/verdict";
import { plural } from "@/core/kit/format";
import type { ExperimentLine } from "@/server/experiments/experiments";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { takeHandOver, type HandOver } from "./hand-over";
import { Interval } from "./interval";
import { NewExperiment } from "./new-experiment";
import { ExperimentPanel } from "./panel";
import { chanceInWords, DESIGN_LABEL, stageInWords } from "./words";

/** What was tried, how far each try has come, and what it found. */
export default function ExperimentsPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("Days of each");
  const experiments = useApi<ExperimentLine[]>(apiPath("experiments"));
  const [making, setMaking] = useState<HandOver | null>(null);
  const [open, setOpen] = useState<number | null>(null);
  const [cursor, setCursor] = useState(0);
  useEffect(() => {
    const left = takeHandOver();
    // What another page left is known in the browser alone.
    // eslint-disable-next-line react-hooks/set-state-in-effect
    if (left) setMaking(left);
  }, []);
  const lines = experiments.data;
  if (!lines) return <PageWaiting title="Experiments" what="the experiments" error={experiments.error} />;
  const count = (stage: ExperimentLine["stage"]) => lines.filter((line) => line.stage === stage).length;
  const facts =
    lines.length === 0
      ? "Nothing was tried yet"
      : [
          plural(lines.length, "experiment"),
          ...(count("running") > 0 ? [`${count("running")} running`] : []),
          ...(count("waiting") > 0 ? [`${count("waiting")} in the basket`] : []),
          ...(count("over") > 0 ? [`${count("over")} over, to be settled`] : []),
        ].join(" · ");
  return (
    <div className="flex h-full flex-col space-y-3">
      <PageHead title="Experiments" facts={facts}>
        {lines.length > 0 && (
          <Button look="ember" onClick={() => setMaking({ ready: "trial-exclusion" })}>
            New experiment …
          </Button>
        )}
      </PageHead>
      {lines.length === 0 ? (
        <EmptyNote
          title="Nothing was tried yet"
          action={
            <Button look="ember" onClick={() => setMaking({ ready: "trial-exclusion" })}>
              New experiment …
            </Button>
          }
        >
          An experiment changes something for half of the items or campaigns, or on half of the days, and compares. It
          says before how many days it takes to tell, may be looked at on any day, and stops by itself where it does
          harm.
        </EmptyNote>
      ) : (
        <DataTable
          label="Experiments"
          columns={columnsFor(currency)}
          total={lines.length}
          rowAt={(index) => lines[index]}
          keyOf={({ id }) => String(id)}
          rowHeight={56}
          cursor={cursor}
          onCursor={setCursor}
          onOpen={({ id }) => setOpen(id)}
        />
      )}
      {making && <NewExperiment start={making} onClose={() => setMaking(null)} />}
      {open !== null && <ExperimentPanel id={open} onClose={() => setOpen(null)} />}
    </div>
  );
}

function columnsFor(currency: string): TableColumn<ExperimentLine>[] {
  return [
    {
      ...{ key: "name", label: "Experiment", width: 210 },
      cell: ({ name, change, definition }) => (
        <span className="block min-w-0 leading-tight">
          <span className="block truncate font-semibold">{name}</span>
          <span className="block truncate text-sm text-soft">
            {change} · {DESIGN_LABEL[definition.design].toLowerCase()}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "stage", label: "State", width: 160 },
      cell: (line) => (
        <span className={line.stage === "over" ? "font-semibold text-ember-strong" : ""}>{stageInWords(line)}</span>
      ),
    },
    {
      ...{ key: "effect", label: "Effect a day", width: 170, align: "right" as const },
      about: "What the change brings a day to those that go with it",
      cell: ({ effect, definition: { measure } }) => (
        <span className="block leading-tight">
          <span className="block">{effect ? changeOfMeasure(measure, effect.mean, currency) : "–"}</span>
          <span className="block text-sm text-soft">{MEASURES[measure].label.toLowerCase()}</span>
        </span>
      ),
    },
    {
      ...{ key: "interval", label: "How sure", width: 100 },
      about: "Ends that hold on whatever day one looks; the line in the middle is no effect",
      cell: ({ effect, definition: { least } }) =>
        effect && <Interval {...effect} most={Math.max(Math.abs(effect.low), Math.abs(effect.high), least)} />,
    },
    {
      ...{ key: "chance", label: "Chance of more", width: 116, align: "right" as const },
      cell: ({ effect }) => (effect ? chanceInWords(effect.chance) : "–"),
    },
    {
      ...{ key: "verdict", label: "Verdict", width: "1fr" as const },
      cell: ({ verdict, learned }) => (
        <span className="line-clamp-2 text-sm leading-tight whitespace-normal" title={verdict}>
          {learned ? `Rule: ${learned.text}` : verdict}
        </span>
      ),
    },
  ];
}

"use client";

import Link from "next/link";
import { useState } from "react";
import { formatCount } from "@/core/kit/format";
import { FAULTS, weightOf, type Finding } from "@/core/stocktake/finding";
import { monthText } from "@/core/stocktake/html";
import type { Spelling } from "@/core/stocktake/phrase";
import { Button, buttonClasses } from "@/ui/button";
import { useWorkspace } from "../../../_lib/workspace";
import { PutAsideDialog } from "../put-aside-dialog";
import { Phrase } from "./phrase";

/** Findings, each a sentence with what it costs a month on one scale, what it stands on, and the way to mend it. */
export function Findings({
  findings,
  scale,
  spelling,
}: {
  findings: readonly Finding[];
  scale: number;
  spelling: Spelling;
}) {
  const [dismissing, setDismissing] = useState<Finding | null>(null);
  return (
    <>
      <ol className="divide-y divide-line">
        {findings.map((finding) => (
          <FindingLine
            key={finding.key}
            finding={finding}
            scale={scale}
            spelling={spelling}
            onDismiss={() => setDismissing(finding)}
          />
        ))}
      </ol>
      {dismissing && (
        <PutAsideDialog
          title="Put a finding aside"
          what={FAULTS[dismissing.fault]}
          path="stocktake-findings"
          about={{ finding: dismissing.key }}
          onClose={() => setDismissing(null)}
        >
          “{FAULTS[dismissing.fault]}” stays aside in this and every later stocktake until you take it up again.
        </PutAsideDialog>
      )}
    </>
  );
}

/** The most that one of the findings weighs: the end of the scale on which all are drawn. */
export function scaleOf(findings: readonly Finding[]): number {
  return Math.max(1, ...findings.map(({ month }) => month?.high ?? 0));
}

function FindingLine({
  finding,
  scale,
  spelling,
  onDismiss,
}: {
  finding: Finding;
  scale: number;
  spelling: Spelling;
  onDismiss: () => void;
}) {
  const { slug } = useWorkspace();
  const { mend, stands } = finding;
  const path = pathOf(finding);
  return (
    <li className="grid grid-cols-[9.5rem_1fr_auto] items-start gap-x-4 py-2.5 max-md:grid-cols-1">
      <Month finding={finding} scale={scale} spelling={spelling} />
      <div className="min-w-0">
        <h3 className="leading-snug font-semibold">{FAULTS[finding.fault]}</h3>
        <p className="max-w-[78ch] leading-snug num">
          <Phrase parts={finding.says} spelling={spelling} />
        </p>
        <p className="text-sm text-soft num">
          {stands && stands.clicks > 0 && (
            <>
              Stands on {formatCount(Math.round(stands.clicks))} clicks and {formatCount(Math.round(stands.orders))}{" "}
              orders.{" "}
            </>
          )}
          {mend.by === "others" && `For ${WHO[mend.who]}: ${mend.words}.`}
        </p>
      </div>
      <div className="flex items-center gap-1">
        {path && (
          <Link href={`/w/${slug}/${path}`} className={buttonClasses("plain")}>
            {mend.by === "moves"
              ? `${formatCount(mend.moves)} ${mend.moves === 1 ? "move" : "moves"}`
              : mend.by === "place" && mend.words}
          </Link>
        )}
        <Button look="quiet" onClick={onDismiss} aria-label={`Put aside … ${FAULTS[finding.fault]}`}>
          Put aside …
        </Button>
      </div>
    </li>
  );
}

/** Where a finding is mended; null where somebody else has to. */
function pathOf(finding: Finding): string | null {
  const { mend } = finding;
  if (mend.by === "moves") return `moves?kind=${mend.proposer}`;
  if (mend.by === "others") return null;
  return mend.path === "catalogue" ? catalogueOf(finding) : mend.path;
}

/** The item table with those of a finding's items that are kept by name. */
function catalogueOf({ about }: Finding): string {
  const value = about.map(({ key }) => key).join("\n");
  const filter = { match: "all", of: [{ field: "id", op: "one-of", value }] };
  return `catalogue?${new URLSearchParams({ filter: JSON.stringify(filter), days: "90", sort: "-cost" }).toString()}`;
}

const WHO = { pages: "whoever keeps the pages", stock: "whoever keeps the stock", shop: "whoever keeps the shop" };

/** The amount a month with its interval as a hairline over a bar. */
function Month({ finding, scale, spelling }: { finding: Finding; scale: number; spelling: Spelling }) {
  const told = monthText(finding, spelling);
  if (!told || !finding.month) return <p className="text-sm text-soft">not told in money</p>;
  const { low, high } = finding.month;
  const at = (value: number) => `${Math.min(100, Math.max(0, (100 * value) / scale))}%`;
  const isLoss = finding.money === "lost";
  return (
    <div className="num" title={told.between && `With 80 % between ${told.between}`}>
      <p className="leading-tight">
        <b>{told.amount}</b> <span className="text-sm text-soft">{told.of}</span>
      </p>
      <span aria-hidden className="relative mt-1 block h-2.5 rounded-sm bg-raised">
        <span
          className={`absolute inset-y-0 left-0 rounded-sm ${isLoss ? "bg-spend" : finding.money === "spent" ? "bg-line" : "bg-petrol/60"}`}
          style={{ width: at(finding.money === "spent" ? finding.month.mean : weightOf(finding)) }}
        />
        <span
          className="absolute top-1/2 h-px bg-ink"
          style={{ left: at(low), width: `calc(${at(high)} - ${at(low)})` }}
        />
      </span>
      {told.between && <p className="text-[11px] leading-tight text-soft">{told.between}</p>}
    </div>
  );
}

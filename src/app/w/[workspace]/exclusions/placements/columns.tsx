"use client";

import { ExternalLink } from "lucide-react";
import { formatCount, formatShare } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { TRIAGE } from "@/core/exclusions/placements/triage";
import type { PlacementLine, PlacementsView } from "@/server/exclusions/placements/placements";
import type { TableColumn } from "@/ui/data-table";
import { Who } from "@/ui/who";

/** What an open address leads to; apps by their number in a store have none. */
const opens = ({ address, kind }: PlacementLine) => kind !== "app" || address.includes("/");

export function placementColumns(currency: string, { impressions, missing }: PlacementsView) {
  const money = (mills: number | null) => (mills === null ? "–" : formatMoney(Math.round(mills), currency));
  const columns: TableColumn<PlacementLine>[] = [
    {
      ...{ key: "place", label: "Placement", width: "1fr", sort: "place" },
      cell: (line) => (
        <span className="block min-w-0" title={`${line.shown}${line.name ? ` · ${line.name}` : ""}`}>
          <span className="flex items-center gap-1.5 leading-tight">
            <span className="truncate">{line.shown}</span>
            {opens(line) && (
              <a
                href={`https://${line.address}`}
                target="_blank"
                rel="noreferrer noopener"
                aria-label={`Open ${line.shown}`}
                title="Open it in a new window"
                className="text-soft hover:text-petrol"
              >
                <ExternalLink aria-hidden className="size-3.5" />
              </a>
            )}
          </span>
          <span className="block truncate text-xs leading-tight text-soft">
            {line.kind}
            {!line.isKindTold && " by its address"}
            {line.name && ` · “${line.name}”`}
            {line.campaigns.length > 0 && ` · ${line.campaigns[0]}`}
            {line.campaigns.length > 1 && ` and ${line.campaigns.length - 1} more`}
          </span>
        </span>
      ),
    },
    {
      ...{ key: "impressions", label: "Impressions", width: 98, align: "right", sort: "impressions" },
      cell: (line) => (
        <span>
          <span className="block leading-tight">{formatCount(line.impressions)}</span>
          <span className="block text-xs leading-tight text-soft">
            {impressions.all > 0 ? formatShare(line.impressions / impressions.all) : "–"}
          </span>
        </span>
      ),
    },
    ...(missing.includes("clicks")
      ? []
      : [
          {
            ...({ key: "cost", label: "Spend", width: 84, align: "right", sort: "cost" } as const),
            cell: ({ cost }: PlacementLine) => money(cost),
          },
          {
            ...({ key: "revenue", label: "Ad sales", width: 84, align: "right", sort: "revenue" } as const),
            cell: ({ revenue }: PlacementLine) => money(revenue),
          },
        ]),
    {
      ...{ key: "clicked", label: "Clicks / 1,000", width: 104, align: "right", sort: "clicked" },
      about: missing.includes("clicks")
        ? "Not reported; worked out from days and campaigns that showed more or less of it."
        : "As counted, with what chance leaves open.",
      cell: ({ clicked, areClicksOwn: isOwn }) =>
        clicked === null ? (
          "–"
        ) : (
          <span className={isOwn ? "" : "text-soft"}>
            <span className="block leading-tight">
              {missing.includes("clicks") && "≈ "}
              {clicked.mean.toFixed(1)}
            </span>
            <span className="block text-xs leading-tight text-soft">
              {isOwn ? `${clicked.low.toFixed(1)} to ${clicked.high.toFixed(1)}` : "as its kind"}
            </span>
          </span>
        ),
    },
    {
      ...{ key: "net", label: "Brings / 1,000", width: 128, align: "right", sort: "net" },
      about:
        "Sales × margin less clicks’ cost for a thousand impressions, with the range that four times of five holds it.",
      cell: ({ net, isOwn, chanceOfLoss }) =>
        net === null ? (
          "unknown"
        ) : !isOwn ? (
          <span className="text-soft">
            <span className="block leading-tight">unknown</span>
            <span className="block text-xs leading-tight">by its kind {money(net.mean)}</span>
          </span>
        ) : (
          <span title={`Costs more than it brings with a chance of ${formatShare(chanceOfLoss!)}`}>
            <span className={net.high < 0 ? "block leading-tight font-semibold text-ember" : "block leading-tight"}>
              {net.high < 0 && "▾ "}
              {money(net.mean)}
            </span>
            <span className="block text-xs leading-tight text-soft">
              {money(net.low)} to {money(net.high)}
            </span>
          </span>
        ),
    },
    {
      ...{ key: "why", label: "Sorted into", width: 168, sort: "why" },
      cell: (line) => (
        <span className="block min-w-0" title={`${TRIAGE[line.triage]}; proposed: ${line.proposed}`}>
          <span
            className={
              line.proposed === "keep out" ? "block truncate leading-tight text-ember" : "block truncate leading-tight"
            }
          >
            {line.proposed === "keep out" && "▾ "}
            {TRIAGE[line.triage]}
          </span>
          <span className="block truncate text-xs leading-tight text-soft">{whyWords(line)}</span>
        </span>
      ),
    },
    {
      ...{ key: "state", label: "Where it stands", width: 132, sort: "state" },
      cell: ({ keptOut, review, hasGrown }) => (
        <span className="block min-w-0" title={review?.note || undefined}>
          <span className="block truncate leading-tight">
            {keptOut ? `kept out${keptOut === "in part" ? " in part" : ""}` : review ? judged(review) : "not judged"}
            {hasGrown && !keptOut && ", but grown"}
          </span>
          {review && (
            <span className="block truncate text-xs leading-tight text-soft">
              {review.on} · <Who who={review.who} />
            </span>
          )}
        </span>
      ),
    },
  ];
  return columns;
}

const judged = ({ judgement }: NonNullable<PlacementLine["review"]>) =>
  judgement === "leave" ? "to be left" : "doubtful";

/** What a placement was sorted by. */
function whyWords({ triage, topic, unsafe, script, chanceOfLoss }: PlacementLine): string {
  if (triage === "unsafe") return `has “${unsafe[0]}”`;
  if (triage === "loses" || triage === "pays")
    return `${formatShare(triage === "loses" ? chanceOfLoss! : 1 - chanceOfLoss!)} sure`;
  if (triage === "foreign") return `${script} letters`;
  if (topic.length > 0) return `about ${topic.slice(0, 2).join(", ")}`;
  return "no word of the catalogue";
}

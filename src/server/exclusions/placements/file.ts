import { toUnits } from "@/core/kit/money";
import { csv } from "../../files/answers";
import type { PlacementsView } from "./placements";

const HEADINGS = [
  ...["address", "name", "kind", "impressions", "clicks", "spend", "orders", "ad_sales", "campaigns", "sorted_into"],
  ...["proposed", "fits", "unsafe", "net_per_1000", "net_low", "net_high", "kept_out", "judgement", "judged_on", "by"],
];

/** The listed placements as a CSV file; what is not known is empty. */
export function placementsFile(view: PlacementsView | null) {
  const money = (mills: number | null | undefined) => (mills == null ? "" : toUnits(Math.round(mills)));
  const rows = (view?.lines ?? []).map((line) => [
    ...[line.address, line.name, line.kind, line.impressions, line.clicks ?? "", money(line.cost), line.orders ?? ""],
    ...[money(line.revenue), line.campaigns.join(", "), line.triage, line.proposed],
    ...[line.topic.join(" "), line.unsafe.join(" ")],
    ...[money(line.net?.mean), money(line.net?.low), money(line.net?.high)],
    ...[line.keptOut ?? "", line.review?.judgement ?? "", line.review?.on ?? "", line.review?.who ?? ""],
  ]);
  return csv("placements.csv", HEADINGS, rows);
}

"use client";

import { useState } from "react";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { SLOT_LABEL } from "@/core/kit/slots";
import type { MediaCampaign, PlacementsView } from "@/server/exclusions/placements/placements";
import { Button } from "@/ui/button";
import { useWorkspace } from "../../../../_lib/workspace";
import { useEdit } from "../../use-edit";

const roas = ({ cost, revenue }: MediaCampaign["media"]) => (cost > 0 ? revenue / cost : null);
const shown = (value: number | null) => (value === null ? "–" : value.toFixed(2));

/** Partner media as a whole first: what it costs and brings beside all else, and each campaign with a way to leave it. */
export function Network({ view }: { view: PlacementsView }) {
  const { currency } = useWorkspace();
  const edit = useEdit();
  const [open, setOpen] = useState<"campaigns" | "kinds" | null>(null);
  const { media, account, campaigns, days, worths } = view;
  const turnOpen = (part: "campaigns" | "kinds") => setOpen(open === part ? null : part);
  const money = (mills: number) => formatMoney(mills, currency);
  const rest = { cost: account.cost - media.cost, revenue: account.revenue - media.revenue } as MediaCampaign["media"];
  const listed = campaigns.reduce((sum, one) => sum + one.listed, 0);
  const unnamed = Math.max(0, media.impressions - listed);
  const turn = (campaign: MediaCampaign, factor: number) =>
    edit({ action: "slot-factor", keys: [campaign.key], slot: "partner-media", factor });
  return (
    <section aria-label="Partner media as a whole" className="rounded-lg border border-line bg-surface px-4 py-2">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1 text-sm num">
        <span>
          {SLOT_LABEL["partner-media"]} in {plural(days, "day")}: spend <b>{money(media.cost)}</b> (
          {account.cost > 0 ? formatShare(media.cost / account.cost) : "–"} of all), ad sales{" "}
          <b>{money(media.revenue)}</b> ({account.revenue > 0 ? formatShare(media.revenue / account.revenue) : "–"} of
          all)
        </span>
        <span>
          ROAS <b>{shown(roas(media))}</b>, elsewhere <b>{shown(roas(rest))}</b>
        </span>
        {(media.impressions === 0 || unnamed > 0) && (
          <span className="text-soft">
            {media.impressions === 0
              ? "No report tells it by slot."
              : `${formatShare(unnamed / media.impressions)} of its impressions are on no placement that is named.`}
          </span>
        )}
        <span className="ml-auto flex gap-1">
          {worths && (
            <Button look="quiet" aria-expanded={open === "kinds"} onClick={() => turnOpen("kinds")}>
              By kind
            </Button>
          )}
          <Button look="quiet" aria-expanded={open === "campaigns"} onClick={() => turnOpen("campaigns")}>
            By campaign
          </Button>
        </span>
      </div>
      {open === "kinds" && worths && <Kinds worths={worths} money={money} />}
      {open === "campaigns" && (
        <table className="mt-2 w-full text-sm num" aria-label="Partner media by campaign">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="font-normal">Campaign</th>
              <th className="text-right font-normal">Impressions</th>
              <th className="text-right font-normal">Spend there</th>
              <th className="text-right font-normal">Ad sales</th>
              <th className="text-right font-normal">ROAS there</th>
              <th className="text-right font-normal">elsewhere</th>
              <th className="text-right font-normal">Bids there</th>
              <th className="text-right font-normal">Change</th>
            </tr>
          </thead>
          <tbody>
            {campaigns.map((campaign) => {
              const { media: there, all, factor } = campaign;
              const other = { cost: all.cost - there.cost, revenue: all.revenue - there.revenue };
              return (
                <tr key={campaign.key} className="border-t border-line/60">
                  <td className="max-w-80 truncate py-1" title={campaign.name}>
                    {campaign.name}
                  </td>
                  <td className="text-right">{formatCount(there.impressions)}</td>
                  <td className="text-right">{money(there.cost)}</td>
                  <td className="text-right">{money(there.revenue)}</td>
                  <td className="text-right">{shown(roas(there))}</td>
                  <td className="text-right">{shown(roas(other as MediaCampaign["media"]))}</td>
                  <td className="text-right">{factor === null ? "–" : factor === 0 ? "off" : `× ${factor}`}</td>
                  <td className="text-right">
                    {factor === null ? (
                      <span className="text-soft">not in the account</span>
                    ) : (
                      <Button look="quiet" onClick={() => void turn(campaign, factor === 0 ? 1 : 0)}>
                        {factor === 0 ? "Let it in again" : "Leave partner media"}
                      </Button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** What kinds of placements are worth, so that a whole kind is left or looked through before single ones. */
function Kinds({ worths, money }: { worths: NonNullable<PlacementsView["worths"]>; money: (mills: number) => string }) {
  return (
    <table className="mt-2 w-full text-sm num" aria-label="Partner media by kind">
      <thead>
        <tr className="text-left text-xs text-soft">
          <th className="font-normal">Kind</th>
          <th className="text-right font-normal">Placements</th>
          <th className="text-right font-normal">Impressions</th>
          <th className="text-right font-normal">Clicks / 1,000</th>
          <th className="text-right font-normal">Brings / 1,000</th>
          <th className="text-right font-normal">Chance that it costs more</th>
        </tr>
      </thead>
      <tbody>
        {worths.map(({ kind, isOnTopic, placements, impressions, clicks, net, chanceOfLoss }) => (
          <tr key={`${kind}/${isOnTopic}`} className="border-t border-line/60">
            <td className="py-1">
              {kind}, {isOnTopic ? "on the catalogue’s topic" : "on something else"}
            </td>
            <td className="text-right">{formatCount(placements)}</td>
            <td className="text-right">{formatCount(impressions)}</td>
            <td className="text-right">
              {clicks.mean.toFixed(1)}{" "}
              <span className="text-xs text-soft">
                {clicks.low.toFixed(1)} to {clicks.high.toFixed(1)}
              </span>
            </td>
            <td className={net.high < 0 ? "text-right font-semibold text-ember" : "text-right"}>
              {net.high < 0 && "▾ "}
              {money(Math.round(net.mean))}{" "}
              <span className="text-xs font-normal text-soft">
                {money(Math.round(net.low))} to {money(Math.round(net.high))}
              </span>
            </td>
            <td className="text-right">{formatShare(chanceOfLoss)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

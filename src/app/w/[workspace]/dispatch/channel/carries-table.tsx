"use client";

import { CAMPAIGN_KINDS } from "@/core/account/records/campaign";
import { fieldOf, kindOf, RECORD_TYPES, type RecordType } from "@/core/account/records";
import type { Carries } from "@/core/dispatch/contract";
import { formatCount } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { Surface } from "@/ui/page";
import { useWorkspace } from "../../../../_lib/workspace";

/** What a channel can carry, line by line; what it does not limit is not listed. */
export function CarriesTable({ name, carries }: { name: string; carries: Carries }) {
  const { currency } = useWorkspace();
  const lines = linesOf(carries, (mills) => formatMoney(mills, currency));
  return (
    <Surface title={`What ${name} can carry`}>
      {lines.length === 0 ? (
        <p>
          Nothing is known of limits there: all that Hot Shelf has may be sent. What goes into a file is the
          profile&rsquo;s.
        </p>
      ) : (
        <dl className="grid grid-cols-[220px_minmax(0,1fr)] gap-x-4 gap-y-1 text-sm num">
          {lines.map(([label, value]) => (
            <div key={label} className="contents">
              <dt className="text-soft">{label}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      )}
      <p className="mt-2 text-sm text-soft">What of the basket falls under it is said there before it is sent.</p>
    </Surface>
  );
}

function linesOf(carries: Carries, money: (mills: number) => string): [label: string, value: string][] {
  const { types, campaignKinds, matchTypes, without, exclusions } = carries;
  const missing = types ? RECORD_TYPES.filter((type) => !types.includes(type)) : [];
  const lost = Object.entries(without ?? {}) as [RecordType, string[]][];
  const count = (label: string, value: number | undefined, what = ""): [string, string][] =>
    value === undefined ? [] : [[label, `${formatCount(value)}${what} at most`]];
  const amount = (label: string, value: number | undefined): [string, string][] =>
    value === undefined ? [] : [[label, money(value)]];
  return [
    ...(missing.length > 0
      ? ([["Does not know", missing.map((type) => kindOf(type).label[1]).join(", ")]] as [string, string][])
      : []),
    ...(campaignKinds && campaignKinds.length < CAMPAIGN_KINDS.length
      ? ([["Kinds of campaigns", campaignKinds.join(", ")]] as [string, string][])
      : []),
    ...(matchTypes ? ([["Match types", matchTypes.join(", ")]] as [string, string][]) : []),
    ...lost.map(([type, fields]): [string, string] => [
      `No place in ${kindOf(type).label[1]} for`,
      fields.map((field) => fieldOf(type, field)?.label ?? field).join(", "),
    ]),
    ...Object.entries(exclusions ?? {}).map(([scope, what]): [string, string] => [
      scope === "workspace" ? "Can exclude everywhere" : `Can exclude in ${scope} campaigns`,
      what.length === 0 ? "nothing" : what.join(", "),
    ]),
    ...count("Campaigns", carries.campaigns),
    ...count("Ad groups in a campaign", carries.adGroupsInCampaign),
    ...count("Product groups in an ad group", carries.productGroupsInAdGroup),
    ...count("Name", carries.nameLength, " characters"),
    ...count("Keyword", carries.keywordLength, " characters"),
    ...count("Keyword", carries.keywordWords, " words").map(([, value]): [string, string] => [
      "Words of a keyword",
      value,
    ]),
    ...amount("Least bid", carries.lowestBid),
    ...amount("Highest bid", carries.highestBid),
    ...amount("Least daily budget", carries.lowestDailyBudget),
  ];
}

"use client";

import { ChevronRight, Download } from "lucide-react";
import { parseAsString, useQueryState } from "nuqs";
import { useState, type ReactNode } from "react";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { Planogram } from "@/core/planogram/planogram";
import type { AccountLine, AccountView } from "@/server/planogram/workbench";
import { Button, buttonClasses } from "@/ui/button";
import { HeatMark } from "@/ui/heat";
import { cx } from "@/ui/cx";
import { TextInput } from "@/ui/field";
import { EmptyNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { GroupClickPrices } from "../click-prices";
import { MoneyCell } from "../money-cell";
import { useEdit } from "../use-edit";

/** The account as it is with the basket on it: campaigns, ad groups and product groups, edited in place. */
export function Workbench({
  view: { lines, version },
  planograms,
  onPlan,
}: {
  view: AccountView;
  planograms: Planogram[];
  onPlan: (key: string) => void;
}) {
  const { slug } = useWorkspace();
  const [days] = useDays();
  const [q, setQ] = useQueryState("q", parseAsString.withDefault(""));
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const toggle = (key: string) =>
    setOpen((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const campaigns = lines.filter((line) => line.level === "campaign");
  const adGroups = lines.filter((line) => line.level === "adGroup");
  const matches = (line: AccountLine) => line.name.toLowerCase().includes(q.toLowerCase());
  const found = campaigns
    .filter(
      (campaign) => q === "" || matches(campaign) || adGroups.some((g) => g.parent === campaign.key && matches(g)),
    )
    .sort((a, b) => Number(b.status === "on") - Number(a.status === "on") || b.sums.cost - a.sums.cost);
  const leaks = campaigns.reduce((sum, campaign) => sum + (campaign.status === "on" ? campaign.leaks : 0), 0);
  return (
    <div className="space-y-3">
      <PageHead
        title="Planogram"
        facts={`${plural(campaigns.filter((c) => c.status === "on").length, "running campaign")} · ${plural(adGroups.length, "ad group")} · ${
          leaks === 0 ? "no leaks" : plural(leaks, "leak")
        }`}
      >
        <a className={buttonClasses("plain")} href={`/api/v1/${slug}/structure?format=csv`} download>
          <Download aria-hidden className="size-3.5" /> CSV
        </a>
        <a className={buttonClasses("plain")} href={`/api/v1/${slug}/structure?format=json`} download>
          <Download aria-hidden className="size-3.5" /> JSON
        </a>
        {planograms.map((planogram) => (
          <Button key={planogram.key} onClick={() => onPlan(planogram.key)}>
            Replan {planogram.name}
          </Button>
        ))}
        <Button look="ember" onClick={() => onPlan("new")}>
          Plan campaigns
        </Button>
      </PageHead>
      {campaigns.length === 0 ? (
        <EmptyNote
          title="Your campaigns will stand here"
          action={
            <Button look="ember" onClick={() => onPlan("new")}>
              Plan campaigns
            </Button>
          }
        >
          A planogram splits the catalogue into campaigns and groups by the fields you choose, proves that every item
          has one home, and closes every remainder.
        </EmptyNote>
      ) : (
        <>
          <TextInput
            type="search"
            aria-label="Search campaigns and ad groups"
            placeholder="Search campaigns and ad groups"
            className="w-72!"
            value={q}
            onChange={(event) => void setQ(event.target.value || null)}
          />
          <div className="overflow-x-auto rounded-lg border border-line bg-surface">
            <table className="w-full text-sm">
              <thead>
                <tr className="border-b border-line text-left text-soft">
                  <th className="px-3 py-2 font-normal">Name</th>
                  <th className="w-24 px-2 font-normal">Status</th>
                  <th className="w-16 px-2 text-right font-normal">Items</th>
                  <th className="w-28 px-2 text-right font-normal">Budget a day</th>
                  <th className="w-24 px-2 text-right font-normal">Bid</th>
                  <th className="w-24 px-2 text-right font-normal">Spend</th>
                  <th className="w-24 px-2 text-right font-normal">Ad sales</th>
                  <th className="w-16 px-2 text-right font-normal">ROAS</th>
                  <th className="w-20 px-2 font-normal">Heat</th>
                </tr>
              </thead>
              <tbody>
                {found.map((campaign) => (
                  <CampaignRows
                    key={campaign.key}
                    campaign={campaign}
                    adGroups={adGroups.filter((group) => group.parent === campaign.key)}
                    version={version}
                    open={open}
                    onToggle={toggle}
                  />
                ))}
              </tbody>
            </table>
            {found.length === 0 && (
              <p className="p-6 text-center text-soft">No campaign or ad group has “{q}” in its name.</p>
            )}
          </div>
          <p className="text-xs text-soft">
            Results of the last {days} days. Edits go into the basket and can be taken back there.
          </p>
        </>
      )}
    </div>
  );
}

interface RowsProps {
  version: number;
  open: ReadonlySet<string>;
  onToggle: (key: string) => void;
}

function CampaignRows({
  campaign,
  adGroups,
  version,
  open,
  onToggle,
}: RowsProps & { campaign: AccountLine; adGroups: AccountLine[] }) {
  return (
    <>
      <LineRow line={campaign} version={version} depth={0} isOpen={open.has(campaign.key)} onToggle={onToggle} />
      {open.has(campaign.key) &&
        adGroups.map((group) => (
          <AdGroupRows key={group.key} group={group} version={version} open={open} onToggle={onToggle} />
        ))}
    </>
  );
}

function AdGroupRows({ group, version, open, onToggle }: RowsProps & { group: AccountLine }) {
  const apiPath = useApiPath();
  const isOpen = open.has(group.key);
  const below = useApi<AccountView>(isOpen ? apiPath(`product-groups?adGroup=${encodeURIComponent(group.key)}`) : null);
  return (
    <>
      <LineRow line={group} version={version} depth={1} isOpen={isOpen} onToggle={onToggle} />
      {isOpen && !below.data && (
        <tr>
          <td colSpan={9} className="pl-14">
            <Loading what="product groups" />
          </td>
        </tr>
      )}
      {isOpen &&
        below.data?.lines.map((line) => <LineRow key={line.key} line={line} version={below.data.version} depth={2} />)}
    </>
  );
}

function LineRow({
  line,
  version,
  depth,
  isOpen,
  onToggle,
}: {
  line: AccountLine;
  version: number;
  depth: number;
  isOpen?: boolean;
  onToggle?: (key: string) => void;
}) {
  const { currency } = useWorkspace();
  const edit = useEdit(version);
  const isOn = line.status === "on";
  const keys = [line.key];
  const name: ReactNode = (
    <>
      {line.name}
      {line.waiting && (
        <span className="rounded bg-petrol-wash px-1 text-xs text-petrol">
          {line.waiting === "new" ? "not sent" : "changed"}
        </span>
      )}
      {line.leaks > 0 && (
        <span className="text-xs font-semibold text-ember">
          ▾ {line.level === "productGroup" ? "leak: open" : plural(line.leaks, "leak")}
        </span>
      )}
    </>
  );
  return (
    <tr className={cx("border-b border-line/70", !isOn && "text-soft")}>
      <td className="px-3 py-1" style={{ paddingLeft: 12 + depth * 22 }}>
        {onToggle ? (
          <button
            type="button"
            aria-expanded={isOpen}
            onClick={() => onToggle(line.key)}
            className={cx("flex items-center gap-1.5 text-left", depth === 0 && "font-semibold")}
          >
            <ChevronRight aria-hidden className={cx("size-4 shrink-0 transition-transform", isOpen && "rotate-90")} />
            {name}
          </button>
        ) : (
          <span className="flex items-center gap-1.5 pl-5">{name}</span>
        )}
      </td>
      <td className="px-2">
        <button
          type="button"
          className="rounded border border-line px-1.5 py-0.5 text-xs hover:bg-raised"
          title={isOn ? "Stop it" : "Switch it on"}
          onClick={() => void edit({ action: "status", keys, status: isOn ? "paused" : "on" })}
        >
          {line.status}
        </button>
      </td>
      <td className="px-2 text-right num">{formatCount(line.items)}</td>
      <td className="px-2 text-right">
        {line.dailyBudget !== null && (
          <MoneyCell
            label={`Daily budget of ${line.name}`}
            value={line.dailyBudget}
            onSave={(dailyBudget) => edit({ action: "budget", keys, dailyBudget })}
          />
        )}
      </td>
      <td className="px-2 text-right">
        {line.level !== "campaign" && !(line.level === "productGroup" && line.status === "closed") && (
          <MoneyCell
            label={`Bid of ${line.name}`}
            value={line.bid}
            empty="group's bid"
            beside={<GroupClickPrices group={line.key} />}
            onSave={(bid) => edit({ action: "bid", keys, bid })}
          />
        )}
      </td>
      {line.level === "productGroup" ? (
        <td colSpan={4} />
      ) : (
        <>
          <td className="px-2 text-right num">{formatMoney(line.sums.cost, currency)}</td>
          <td className="px-2 text-right num">{formatMoney(line.sums.revenue, currency)}</td>
          <td className="px-2 text-right num">{formatMetric("roas", METRICS.roas.of(line.sums), currency)}</td>
          <td className="px-2">{line.heat && <HeatMark heat={line.heat} />}</td>
        </>
      )}
    </tr>
  );
}

"use client";

import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { useMemo, useState } from "react";
import Link from "next/link";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { COPY_FIELDS, type CopyField } from "@/core/copy/values";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import { textLength } from "@/core/kit/text-length";
import type { AdLine, RunningAds } from "@/server/copy/ads";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { Dialog } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { Pills } from "@/ui/pills";
import { useSettled } from "@/ui/use-settled";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../../_lib/workspace";
import { PickBar } from "../../pick-bar";
import { useEdit } from "../../use-edit";
import { useList } from "../../use-list";
import { adsPath } from "../asks";
import { PartsBar } from "../parts-bar";

const ONLY = ["all", "running", "lapsed", "byHand"] as const;

/** How a figure is called, in a sentence. */
const figureName = (field: string) => (COPY_FIELDS[field as CopyField] ?? field).toLowerCase();

/** Every text ad that there is: what it says, whether its figures still hold, what its ad group did. */
export default function RunningAdsPage() {
  const { slug, currency } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const [{ only, find }, setState] = useQueryStates({
    only: parseAsStringLiteral(ONLY).withDefault("all"),
    find: parseAsString.withDefault(""),
  });
  const asked = useSettled(find, 200);
  const ads = useApi<RunningAds>(apiPath(adsPath(days, only, asked)), { placeholderData: (before) => before });
  const edit = useEdit();
  const [open, setOpen] = useState<AdLine | null>(null);
  const rows = useMemo(() => ads.data?.ads ?? [], [ads.data]);
  const money = (mills: number) => formatMoney(mills, currency);
  const list = useList({
    rows,
    keyOf: ({ key }) => key,
    textOf: () => "",
    sorts: {
      ad: ({ headlines }) => headlines[0] ?? "",
      campaign: ({ campaignName }) => campaignName,
      state: ({ lapsed, byHand }) => lapsed.length * 2 + Number(byHand),
      clicks: ({ sums }) => sums.clicks,
      cost: ({ sums }) => sums.cost,
      roas: ({ sums }) => METRICS.roas.of(sums),
    },
    copy: [
      { heading: "campaign", of: ({ campaignName }) => campaignName },
      { heading: "ad group", of: ({ adGroupName }) => adGroupName },
      { heading: "ad", of: ({ name }) => name },
      { heading: "headlines", of: ({ headlines }) => headlines.join(" | ") },
      { heading: "descriptions", of: ({ descriptions }) => descriptions.join(" | ") },
      { heading: "figures to look at", of: ({ lapsed }) => lapsed.map(lapsedWords).join("; ") },
    ],
  });
  if (ads.error || !ads.data)
    return (
      <PageWaiting title="Running ads" what="the ads" error={ads.error}>
        <PartsBar here="running" />
      </PageWaiting>
    );
  const { counts, total } = ads.data;
  const columns: TableColumn<AdLine>[] = [
    {
      ...{ key: "ad", label: "Ad", width: "1fr", sort: "ad" },
      cell: (ad) => (
        <button type="button" className="block max-w-full text-left hover:underline" onClick={() => setOpen(ad)}>
          <span className="block truncate leading-tight font-medium">{ad.headlines.slice(0, 3).join(" · ")}</span>
          <span className="block truncate text-xs leading-tight text-soft">{ad.descriptions[0]}</span>
        </button>
      ),
    },
    {
      ...{ key: "campaign", label: "Ad group", width: 220, sort: "campaign" },
      cell: (ad) => (
        <>
          <span className="block truncate leading-tight" title={ad.adGroupName}>
            {ad.adGroupName}
          </span>
          <span className="block truncate text-xs leading-tight text-soft">
            {ad.campaignName}
            {ad.waiting && ` · ${ad.waiting === "new" ? "not sent yet" : "changed in the basket"}`}
          </span>
        </>
      ),
    },
    {
      ...{ key: "state", label: "To look at", width: 210, sort: "state" },
      cell: (ad) =>
        ad.lapsed.length > 0 ? (
          <span className="block truncate text-ember" title={ad.lapsed.map(lapsedWords).join("; ")}>
            {lapsedWords(ad.lapsed[0]!)}
          </span>
        ) : (
          <span className="text-soft">{!ad.runs ? "does not run" : ad.byHand ? "written by hand" : "–"}</span>
        ),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 72, align: "right", sort: "clicks", about: "Of its ad group" },
      cell: ({ sums }) => formatCount(sums.clicks),
    },
    {
      ...{ key: "cost", label: "Spend", width: 90, align: "right", sort: "cost", about: "Of its ad group" },
      cell: ({ sums }) => money(sums.cost),
    },
    {
      ...{ key: "roas", label: "ROAS", width: 64, align: "right", sort: "roas", about: "Of its ad group" },
      cell: ({ sums }) => formatMetric("roas", METRICS.roas.of(sums), currency),
    },
  ];
  const keys = list.picked.map(({ key }) => key);
  const plans = [
    ...new Map(
      rows.filter(({ lapsed, plan }) => lapsed.length > 0 && plan).map(({ plan }) => [plan!.key, plan!]),
    ).values(),
  ];
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Running ads"
        facts={`${plural(counts.all, "text ad")}${counts.lapsed > 0 ? ` · ${formatCount(counts.lapsed)} say a figure that changed` : ""}`}
      />
      <PartsBar here="running" />
      {counts.all === 0 ? (
        <EmptyNote
          title="No text ads yet"
          action={
            <Link className="text-petrol hover:underline" href={`/w/${slug}/copy`}>
              Write some
            </Link>
          }
        >
          Ads that a copy plan wrote stand here once they are in the basket, with what they say and what they did.
        </EmptyNote>
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <Pills
              label="Which ads"
              value={only}
              onChange={(next) => void setState({ only: next })}
              pills={[
                { key: "all", label: "All", count: counts.all },
                { key: "running", label: "Running", count: counts.running },
                { key: "lapsed", label: "A figure changed", count: counts.lapsed },
                { key: "byHand", label: "Written by hand", count: counts.byHand },
              ]}
            />
            <TextInput
              type="search"
              aria-label="Search ads"
              placeholder="Words in ads"
              className="ml-auto w-56!"
              value={find}
              onChange={(event) => void setState({ find: event.target.value || null })}
            />
            {total > rows.length && (
              <span className="text-sm text-soft num">
                the first {formatCount(rows.length)} of {formatCount(total)}
              </span>
            )}
          </div>
          {counts.lapsed > 0 && plans.length > 0 && (
            <p className="text-sm">
              Written anew, they say what is so now:{" "}
              {plans.map(({ key, name }, i) => (
                <span key={key}>
                  {i > 0 && ", "}
                  <Link className="text-petrol hover:underline" href={`/w/${slug}/copy?plan=${key}`}>
                    {name}
                  </Link>
                </span>
              ))}
              . Only what differs goes into the basket.
            </p>
          )}
          {keys.length > 0 && (
            <PickBar label={`${plural(keys.length, "ad")} picked`} onCopy={list.copyRows} onClear={list.clear}>
              {keys.length === 1 && <Button onClick={() => setOpen(list.picked[0]!)}>Write its lines</Button>}
              <Button onClick={() => void edit({ action: "status", keys, status: "paused" })}>Pause</Button>
              <Button onClick={() => void edit({ action: "status", keys, status: "on" })}>Switch on</Button>
            </PickBar>
          )}
          <DataTable label="Text ads" columns={columns} rowHeight={44} isOld={ads.isPlaceholderData} {...list.table} />
        </>
      )}
      {open && <AdDialog ad={open} onClose={() => setOpen(null)} />}
    </div>
  );
}

function lapsedWords({ field, said, now }: AdLine["lapsed"][number]): string {
  return `says ${said}, now ${now === "" ? "nothing" : now} (${figureName(field)})`;
}

const linesIn = (text: string) =>
  text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);

/** The lines of one ad, to be written by hand, one a line. */
function AdDialog({ ad, onClose }: { ad: AdLine; onClose: () => void }) {
  const edit = useEdit(true);
  const [headlines, setHeadlines] = useState(ad.headlines.join("\n"));
  const [descriptions, setDescriptions] = useState(ad.descriptions.join("\n"));
  const [address, setAddress] = useState(ad.address);
  const [busy, setBusy] = useState(false);
  const { textAd } = CHANNEL_LIMITS;
  const isLong =
    linesIn(headlines).some((line) => lengthOf(line) > textAd.headlines.length) ||
    linesIn(descriptions).some((line) => lengthOf(line) > textAd.descriptions.length) ||
    lengthOf(address) > textAd.address.length;
  return (
    <Dialog open wide onClose={onClose} title={`${ad.name} of ${ad.adGroupName}`}>
      <p className="mb-3 text-sm text-soft">
        {ad.campaignName}
        {ad.link && (
          <>
            {" · leads to "}
            <span className="font-mono text-xs">{ad.link}</span>
          </>
        )}
        {ad.plan && ` · written by “${ad.plan.name}”, which leaves alone what you change here`}
      </p>
      <div className="grid grid-cols-2 gap-4">
        <Lines label="Headlines" value={headlines} most={textAd.headlines.length} onChange={setHeadlines} />
        <Lines label="Descriptions" value={descriptions} most={textAd.descriptions.length} onChange={setDescriptions} />
      </div>
      <div className="mt-3 w-64">
        <Field label="Address" hint={`${lengthOf(address)} of ${textAd.address.length} characters`}>
          {(props) => <TextInput {...props} value={address} onChange={(event) => setAddress(event.target.value)} />}
        </Field>
      </div>
      <div className="mt-4 flex justify-end gap-2 border-t border-line pt-3">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="ember"
          disabled={busy || isLong}
          onClick={() => {
            setBusy(true);
            const lines = { headlines: linesIn(headlines), descriptions: linesIn(descriptions), address };
            void edit({ action: "ad-lines", keys: [ad.key], ...lines }, onClose).then(() => setBusy(false));
          }}
        >
          Put into the basket
        </Button>
      </div>
    </Dialog>
  );
}

const lengthOf = (line: string) => textLength(line, CHANNEL_LIMITS.wideCountTwice);

function Lines({
  label,
  value,
  most,
  onChange,
}: {
  label: string;
  value: string;
  most: number;
  onChange: (value: string) => void;
}) {
  const lines = linesIn(value);
  const long = lines.filter((line) => lengthOf(line) > most);
  return (
    <Field
      label={`${label}, one a line`}
      hint={`${plural(lines.length, "line")}, the longest ${Math.max(0, ...lines.map(lengthOf))} of ${most} characters`}
      error={
        long.length > 0 ? `“${long[0]!.slice(0, 40)}…” is ${lengthOf(long[0]!) - most} characters too long.` : undefined
      }
    >
      {(props) => (
        <textarea
          {...props}
          rows={10}
          className={cx("w-full rounded-md border border-line bg-surface px-2 py-1.5 text-sm")}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}

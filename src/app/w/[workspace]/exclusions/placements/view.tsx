"use client";

import { Download } from "lucide-react";
import { useRouter } from "next/navigation";
import { useQueryStates } from "nuqs";
import { useState } from "react";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { groupBy } from "@/core/kit/group-by";
import { toUnits } from "@/core/kit/money";
import { PLACEMENT_KINDS } from "@/core/exclusions/placements/kind";
import type { PlacementJudgement } from "@/core/exclusions/placements/review";
import type { Judged } from "@/server/exclusions/placements/reviews";
import type { PlacementLine, PlacementsView } from "@/server/exclusions/placements/placements";
import { Button, buttonClasses } from "@/ui/button";
import { DataTable } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { Pills } from "@/ui/pills";
import { useSettled } from "@/ui/use-settled";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { sayDone } from "../../../../_lib/undo";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { handOver } from "../../experiments/hand-over";
import { NegativeDialog } from "../../negative-dialog";
import { PickBar } from "../../pick-bar";
import type { Reason } from "../../reason-fields";
import { useList } from "../../use-list";
import { ExclusionsTabs } from "../tabs";
import { LIST_LABEL, LISTS, placementsPath, placementsState } from "./asks";
import { placementColumns } from "./columns";
import { Network } from "./network";
import { PastedPlacements } from "./pasted";
import { UnsafeDialog } from "./unsafe-dialog";

const ANY = "all kinds";

/** Placements, sorted by what can be told of them: kept out, judged, or left for the next look. */
export default function PlacementsPage() {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  useOwnWindow("The last 90 days");
  const [asked] = useQueryStates(placementsState);
  // More placements may be found than are listed, so words are looked for among all of them.
  const path = placementsPath({ ...asked, q: useSettled(asked.q, 250) });
  const placements = useApi<PlacementsView | null>(apiPath(path), { placeholderData: (before) => before });
  const [doing, setDoing] = useState<"paste" | "words" | null>(null);
  if (placements.error || placements.data === undefined) {
    return (
      <PageWaiting title="Placements" what="the placements" error={placements.error}>
        <ExclusionsTabs />
      </PageWaiting>
    );
  }
  const view = placements.data;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead title="Placements" facts={view && <HeadFacts view={view} />}>
        <Button onClick={() => setDoing("words")}>Unsafe words …</Button>
        <Button onClick={() => setDoing("paste")}>Paste a list …</Button>
        {view && (
          <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/${path.replace("?", ".csv?")}`} download>
            <Download aria-hidden className="size-3.5" /> CSV
          </a>
        )}
      </PageHead>
      <ExclusionsTabs />
      {view ? (
        <Placements view={view} />
      ) : (
        <EmptyNote title="No report tells where ads were shown">
          A report of placements is read in under Results, Reports; it may tell impressions alone. What should be kept
          out anyway can be pasted.
        </EmptyNote>
      )}
      {doing === "paste" && <PastedPlacements onClose={() => setDoing(null)} />}
      {doing === "words" && <UnsafeDialog onClose={() => setDoing(null)} />}
    </div>
  );
}

function HeadFacts({ view: { counts, impressions, days, lastReview, reviewOn, isDue } }: { view: PlacementsView }) {
  return (
    <>
      {formatCount(counts.all)} with {formatCount(impressions.all)} impressions in {plural(days, "day")} ·{" "}
      {lastReview ? `last judged ${lastReview}` : "nobody judged any yet"}
      {reviewOn && (
        <span className={isDue ? "font-semibold text-ember-strong" : ""}>
          {isDue ? ", a look is due" : `, next look ${reviewOn}`}
        </span>
      )}
    </>
  );
}

function Placements({ view }: { view: PlacementsView }) {
  const { currency, slug } = useWorkspace();
  const router = useRouter();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [{ show, kind }, setAsked] = useQueryStates(placementsState);
  const [isKeeping, setKeeping] = useState(false);
  const units = (mills: number | null | undefined) => (mills == null ? null : toUnits(Math.round(mills)));
  const list = useList<PlacementLine>({
    rows: view.lines,
    keyOf: ({ address }) => address,
    textOf: ({ shown, name, campaigns }) => `${shown} ${name} ${campaigns.join(" ")}`,
    sorts: {
      place: ({ shown }) => shown,
      impressions: (line) => line.impressions,
      cost: ({ cost }) => cost,
      revenue: ({ revenue }) => revenue,
      clicked: ({ clicked }) => clicked && clicked.mean,
      // What nothing of its own is known of stands last, whatever its kind brings.
      net: ({ net, isOwn }) => (net && isOwn ? net.mean : null),
      why: ({ triage }) => LISTS.indexOf(triage),
      state: ({ keptOut, review }) => keptOut ?? review?.judgement ?? null,
    },
    copy: [
      { heading: "address", of: ({ address }) => address },
      { heading: "name", of: ({ name }) => name },
      { heading: "kind", of: (line) => line.kind },
      { heading: "impressions", of: ({ impressions }) => impressions },
      { heading: "clicks per 1000", of: ({ clicked }) => clicked && Number(clicked.mean.toFixed(2)) },
      { heading: "brings per 1000", of: ({ net, isOwn }) => (isOwn ? units(net?.mean) : null) },
      { heading: "sorted into", of: ({ triage }) => LIST_LABEL[triage] },
      { heading: "state", of: ({ keptOut, review }) => keptOut ?? review?.judgement ?? "" },
    ],
  });
  const picked = list.picked.map(({ address }) => address);
  const send = (judgement: PlacementJudgement | null, addresses: string[], note = "") =>
    apiSend<Judged>(apiPath("placements/judgements"), { addresses, judgement, note }, "PUT");
  /** Puts back what was judged before, as it was. */
  const putBack = async (before: Judged["before"]) => {
    const alike = groupBy(before, ({ judgement, note }) => `${judgement ?? ""}/${note}`);
    for (const [, group] of alike) {
      const { judgement, note } = group[0]!;
      await send(
        judgement,
        group.map(({ address }) => address),
        note,
      );
    }
    await refresh();
  };
  const tryWithout = (addresses: string[]) => {
    const values = addresses.map((value) => ({ what: "placement" as const, match: "exact" as const, value }));
    const campaigns = list.picked.flatMap((line) => line.campaignKeys);
    handOver({ ready: "places", change: { kind: "keep-out", values }, campaigns: [...new Set(campaigns)] });
    router.push(`/w/${slug}/experiments`);
  };
  const judge = async (judgement: PlacementJudgement | null, addresses: string[]) => {
    try {
      const { before } = await send(judgement, addresses);
      const words = judgement === null ? "to be judged again" : judgement === "leave" ? "to be left" : "doubtful";
      sayDone(`${plural(addresses.length, "placement")} ${words}`, () => putBack(before));
      list.clear();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const sum = list.picked.reduce((all, { impressions }) => all + impressions, 0);
  const kinds = [ANY, ...PLACEMENT_KINDS.filter((one) => view.kinds[one])];
  const shownLists = LISTS.filter((one) => view.counts[one] > 0 || one === "new" || one === show);
  return (
    <>
      <Network view={view} />
      <Pills
        label="What is shown"
        value={show}
        pills={shownLists.map((key) => ({ key, label: LIST_LABEL[key], count: view.counts[key] }))}
        onChange={(key) => {
          void setAsked({ show: key });
          list.clear();
        }}
      />
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search the placements"
          placeholder="Search  ( / )"
          className="w-56!"
          {...list.search}
        />
        <ChoiceSelect
          aria-label="Kind"
          className="w-40!"
          value={kind || ANY}
          choices={kinds}
          onChange={(next) => void setAsked({ kind: next === ANY ? null : next })}
        />
        <span className="text-sm text-soft num">
          {plural(list.found.length, "placement")}
          {view.impressions.all > 0 && `, ${formatShare(view.impressions.found / view.impressions.all)} of impressions`}
          {view.total > view.lines.length &&
            ` · the first ${formatCount(view.lines.length)} of ${formatCount(view.total)} are listed; search finds the others`}
        </span>
        {view.worths === null && (
          <span className="text-sm text-soft">
            What they bring is unknown: too few days tell what partner media brought.
          </span>
        )}
      </div>
      {list.picked.length > 0 && (
        <PickBar
          label={`${plural(picked.length, "placement")} picked`}
          sums={`${formatCount(sum)} impressions`}
          onCopy={list.copyRows}
          onClear={list.clear}
        >
          <Button onClick={() => void judge("leave", picked)}>Leave</Button>
          <Button onClick={() => void judge("doubtful", picked)}>Doubtful</Button>
          <Button onClick={() => setKeeping(true)}>Keep out …</Button>
          <Button onClick={() => tryWithout(picked)}>Try without …</Button>
          {list.picked.some(({ review }) => review) && (
            <Button onClick={() => void judge(null, picked)}>Judge again</Button>
          )}
        </PickBar>
      )}
      <DataTable
        label="Placements"
        columns={placementColumns(currency, view)}
        rowHeight={44}
        empty={
          <p className="p-4 text-sm text-soft">
            {show === "new" ? "Every placement was judged or is kept out." : "No placement is like that."}
          </p>
        }
        {...list.table}
      />
      {isKeeping && (
        <NegativeDialog
          level="placement"
          values={picked}
          within={null}
          reason={reasonOf(list.picked)}
          onClose={() => setKeeping(false)}
          onDone={list.clear}
        />
      )}
    </>
  );
}

/** Why placements are kept out, as what most of them were sorted into has it. */
function reasonOf(lines: PlacementLine[]): Reason {
  const count = (triage: PlacementLine["triage"]) => lines.filter((line) => line.triage === triage).length;
  if (2 * count("unsafe") > lines.length) return "unsafe";
  return 2 * (count("foreign") + count("doubtful")) > lines.length ? "off-topic" : "wasteful";
}

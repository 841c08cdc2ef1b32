"use client";

import { Download, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { PlannedCampaign, PlannedGroup } from "@/core/planogram/planned-campaigns";
import type { Planogram } from "@/core/planogram/planogram";
import type { PlanogramPreview } from "@/core/planogram/preview";
import type { PlanProof } from "@/server/planogram/prove";
import { Button } from "@/ui/button";
import { TextInput } from "@/ui/field";
import { Surface } from "@/ui/page";
import { useUnfolded } from "@/ui/use-unfolded";
import { apiBytes, toastError } from "../../../_lib/api";
import { saveFile } from "../../../_lib/save-file";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import type { EachChange } from "./each";
import { EachDialog, type Picked } from "./each-dialog";
import { FoldButton } from "./fold-button";
import { PlannedItemsPanel } from "./planned-items";
import { PlannedTable } from "./planned-table";
import { Proof } from "./proof";

/** What a planogram would make: the proof, warnings with what puts them right, and every campaign down to its items. */
export function Preview({
  planogram,
  preview,
  proof,
  isProofStale,
  onBudget,
  onEach,
  onRepair,
}: {
  planogram: Planogram;
  preview: PlanogramPreview;
  proof: PlanProof | undefined;
  /** Whether the proof is of the plan before the last change. */
  isProofStale: boolean;
  /** Sets a campaign's budget by hand, mills a day; null lets it share again. */
  onBudget: (campaign: string, mills: number | null) => void;
  /** Sets single campaigns or ad groups otherwise than the rest; null puts them back. */
  onEach: (keys: string[], change: EachChange | null) => void;
  onRepair: (change: Partial<Planogram>) => void;
}) {
  const { currency } = useWorkspace();
  const [q, setQ] = useState("");
  const unfolded = useUnfolded();
  const [drill, setDrill] = useState<PlannedGroup | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [setting, setSetting] = useState<Picked | null>(null);
  // What is no longer planned is no longer picked.
  const chosen = pickedOf(preview.campaigns, picked);
  const { counts } = preview;
  return (
    <div className="space-y-4">
      <Surface>
        <Proof planogram={planogram} proof={proof} isStale={isProofStale} />
        {preview.warnings.map(({ text, repair }) => (
          <p key={text} className="mt-2 flex items-center gap-2 text-sm">
            <TriangleAlert aria-hidden className="size-4 shrink-0 text-ember" />
            <span className="num">{text}</span>
            {repair && <Button onClick={() => onRepair(repair.change)}>{repair.label}</Button>}
          </p>
        ))}
      </Surface>
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          type="search"
          aria-label="Search the plan"
          placeholder="Search the plan"
          className="w-56!"
          value={q}
          onChange={(event) => setQ(event.target.value)}
        />
        <FoldButton unfolded={unfolded} campaigns={preview.campaigns.map(({ key }) => key)} />
        {chosen.map((one) => (
          <Button key={String(one.areCampaigns)} onClick={() => setSetting(one)}>
            Set {plural(one.keys.length, one.areCampaigns ? "campaign" : "ad group")} …
          </Button>
        ))}
        <span className="ml-auto flex items-center gap-1 text-sm">
          <span className="text-soft">As it would be:</span>
          {(["csv", "xlsx", "json"] as const).map((format) => (
            <DownloadButton key={format} planogram={planogram} format={format} />
          ))}
        </span>
      </div>
      <div className="flex h-120 flex-col">
        <PlannedTable
          planogram={planogram}
          preview={preview}
          q={q}
          unfolded={unfolded}
          picked={picked}
          onPick={setPicked}
          onItems={setDrill}
          onBudget={onBudget}
        />
      </div>
      <p className="flex flex-wrap gap-x-4 text-sm font-semibold num" role="status" aria-label="In all">
        <span>{plural(counts.campaigns, "campaign")}</span>
        <span>{plural(counts.items, "item")}</span>
        <span>{formatCount(counts.productGroups)} product groups</span>
        <span>sales {formatMoney(total(preview.campaigns, "revenue"), currency)}</span>
        <span>spend {formatMoney(total(preview.campaigns, "cost"), currency)}</span>
        <span>budget {formatMoney(total(preview.campaigns, "dailyBudget"), currency)} a day</span>
        {new Set(preview.campaigns.map(({ variant }) => variant)).size > 1 && (
          <span className="font-normal text-soft">
            Campaigns that differ in match or reach alone show the same items: what these brought counts once here.
          </span>
        )}
      </p>
      {setting && (
        <EachDialog
          planogram={planogram}
          picked={setting}
          onSet={(change) => {
            onEach(setting.keys, change);
            setSetting(null);
          }}
          onClose={() => setSetting(null)}
        />
      )}
      <PlannedItemsPanel planogram={planogram} group={drill} onClose={() => setDrill(null)} />
    </div>
  );
}

/** What is picked, campaigns and ad groups apart. */
function pickedOf(campaigns: PlannedCampaign[], picked: ReadonlySet<string>): Picked[] {
  const inPlan = (areCampaigns: boolean, groups: PlannedGroup[]): Picked[] => {
    const found = groups.filter(({ key }) => picked.has(key));
    const name = found.length === 1 ? found[0]!.name : null;
    return found.length === 0 ? [] : [{ keys: found.map(({ key }) => key), areCampaigns, name }];
  };
  return [
    ...inPlan(true, campaigns),
    ...inPlan(
      false,
      campaigns.flatMap(({ adGroups }) => adGroups),
    ),
  ];
}

/** Over all campaigns; what items brought is counted once, though each match type or reach holds them. */
function total(campaigns: PlannedCampaign[], key: "cost" | "revenue" | "dailyBudget"): number {
  const first = campaigns[0]?.variant;
  const counted = key === "dailyBudget" ? campaigns : campaigns.filter(({ variant }) => variant === first);
  return counted.reduce((sum, campaign) => sum + campaign[key], 0);
}

const TYPE = {
  csv: "text/csv",
  xlsx: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
  json: "application/json",
};

/** Saves the structure that the plan would make, before anything exists. */
function DownloadButton({ planogram, format }: { planogram: Planogram; format: keyof typeof TYPE }) {
  const apiPath = useApiPath();
  const [busy, setBusy] = useState(false);
  const save = async () => {
    setBusy(true);
    try {
      const bytes = await apiBytes(apiPath(`planograms/preview/file?format=${format}`), planogram);
      saveFile(`${planogram.key}.${format}`, bytes, TYPE[format]);
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Button look="quiet" disabled={busy} onClick={() => void save()}>
      <Download aria-hidden className="size-3.5" /> {format.toUpperCase()}
    </Button>
  );
}

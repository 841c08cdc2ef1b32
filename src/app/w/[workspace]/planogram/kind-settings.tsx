"use client";

import { useState } from "react";
import { isHomeKind } from "@/core/account/homes";
import { AD_KIND, CAMPAIGN_KINDS, type CampaignKind } from "@/core/account/records/campaign";
import { areEnough } from "@/core/account/records/assets";
import { REACHES } from "@/core/account/records/reach";
import { plural } from "@/core/kit/format";
import type { NameValues } from "@/core/planogram/names";
import { planogramSchema, type Planogram } from "@/core/planogram/planogram";
import type { PlanogramPreview } from "@/core/planogram/preview";
import { Button } from "@/ui/button";
import { Checkbox, Field, Select } from "@/ui/field";
import { useFields } from "../catalogue/use-feeds";
import { AssetDialog } from "./asset-dialog";
import { KeywordSettings, startKeywords } from "./keyword-settings";
import { PageSettings, START_PAGES } from "./page-settings";
import { ReachSettings } from "./reach-settings";
import { startAssets } from "./start-assets";

const KIND_LABEL: Record<CampaignKind, string> = {
  feed: "Feed: items as they stand",
  asset: "Asset: ads put together for each item",
  discovery: "Discovery: automatic reach",
  keyword: "Keyword: terms that people search for",
  listing: "Listing: on item pages",
  text: "Text: terms, with a written ad",
};

/** The kind of the planned campaigns, and what only that kind has: assets, or reaches. */
export function KindSettings({
  draft,
  example,
  aims,
  onChange,
}: {
  draft: Planogram;
  /** Values to show patterns with. */
  example: NameValues;
  /** What the plan aims at; null while that is not known. */
  aims: PlanogramPreview["aims"] | null;
  onChange: (change: Partial<Planogram>) => void;
}) {
  const kind = draft.kind ?? "feed";
  const fields = useFields();
  const [isOpen, setOpen] = useState(false);
  const reach = draft.reach ?? [...REACHES];
  const assets = draft.assets ?? startAssets(fields);
  // A plan that can't be laid over the catalogue yet has no items to look at.
  const canLook = planogramSchema.safeParse({ ...draft, assets }).success;
  return (
    <div className="mb-3 space-y-2">
      <Field label="Kind of campaign">
        {(props) => (
          <Select
            {...props}
            value={kind}
            title={AD_KIND[kind]}
            onChange={(event) => {
              const next = event.target.value as CampaignKind;
              onChange({
                kind: next,
                ...(next === "asset" && { assets }),
                ...((next === "keyword" || next === "text") && { keywords: draft.keywords ?? startKeywords(draft) }),
                ...(next === "listing" && { pages: draft.pages ?? START_PAGES }),
                // What aims serves beside the homes of its items and takes nobody's place.
                ...(!isHomeKind(next) && { replaces: [] }),
              });
            }}
          >
            {CAMPAIGN_KINDS.map((one) => (
              <option key={one} value={one}>
                {KIND_LABEL[one]}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {kind === "asset" && (
        <p className="flex items-center gap-2 text-sm">
          <span className={areEnough(assets) ? "text-soft" : "text-ember"}>
            {plural(assets.headlines.length, "headline")}, {plural(assets.descriptions.length, "description")},{" "}
            {plural(assets.pictures.length, "picture")}
          </span>
          <Button disabled={!canLook} onClick={() => setOpen(true)}>
            Write assets
          </Button>
        </p>
      )}
      {kind === "discovery" && <ReachSettings reach={reach} onChange={(reach) => onChange({ reach })} />}
      {kind === "discovery" && <Apart label="A campaign for each reach" draft={draft} onChange={onChange} />}
      {(kind === "keyword" || kind === "text") && draft.keywords && (
        <>
          <KeywordSettings
            value={draft.keywords}
            levels={draft.ladder.length}
            example={example}
            onChange={(keywords) => onChange({ keywords })}
          />
          <Apart label="A campaign for each match type" draft={draft} onChange={onChange} />
        </>
      )}
      {kind === "listing" && draft.pages && (
        <PageSettings value={draft.pages} onChange={(pages) => onChange({ pages })} />
      )}
      {aims && aims.total > 0 && (
        <p className="text-xs text-soft num" role="status" aria-label="What it aims at">
          {plural(aims.total, "target")}: {aims.examples.join(" · ")}
          {aims.total > aims.examples.length && " …"}
        </p>
      )}
      {isOpen && (
        <AssetDialog
          title="Assets of every asset group"
          start={assets}
          scope={{ planogram: { ...draft, assets } }}
          keep={{
            label: "Use these",
            run: (next) => {
              onChange({ assets: next });
              return Promise.resolve(true);
            },
          }}
          onClose={() => setOpen(false)}
        />
      )}
    </div>
  );
}

/** Whether match types, or reaches, stand in campaigns of their own. */
function Apart({
  label,
  draft,
  onChange,
}: {
  label: string;
  draft: Planogram;
  onChange: (change: Partial<Planogram>) => void;
}) {
  return (
    <Checkbox
      label={label}
      checked={draft.apart ?? false}
      onChange={(event) => onChange({ apart: event.target.checked || undefined })}
    />
  );
}

"use client";

import { useState } from "react";
import { AD_KIND } from "@/core/account/records/campaign";
import { areEnough } from "@/core/account/records/assets";
import { REACH_KINDS } from "@/core/account/records/reach";
import { plural } from "@/core/kit/format";
import { planogramSchema, PLANNED_KINDS, type Planogram } from "@/core/planogram/planogram";
import { Button } from "@/ui/button";
import { Checkbox, Field, Select } from "@/ui/field";
import { useFields } from "../catalogue/use-feeds";
import { AssetDialog } from "./asset-dialog";
import { startAssets } from "./start-assets";

type PlannedKind = (typeof PLANNED_KINDS)[number];

const KIND_LABEL: Record<PlannedKind, string> = {
  feed: "Feed: items as they stand",
  asset: "Asset: ads put together for each item",
  discovery: "Discovery: automatic reach",
};

/** The kind of the planned campaigns, and what only that kind has: assets, or kinds of reach. */
export function KindSettings({
  draft,
  onChange,
}: {
  draft: Planogram;
  onChange: (change: Partial<Planogram>) => void;
}) {
  const kind = draft.kind ?? "feed";
  const fields = useFields();
  const [isOpen, setOpen] = useState(false);
  const reach = draft.reach ?? [...REACH_KINDS];
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
              const next = event.target.value as PlannedKind;
              onChange({ kind: next, ...(next === "asset" ? { assets } : {}) });
            }}
          >
            {PLANNED_KINDS.map((one) => (
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
      {kind === "discovery" && (
        <fieldset className="grid grid-cols-2 gap-1">
          <legend className="mb-1 text-sm font-medium">Reaches</legend>
          {REACH_KINDS.map((one) => (
            <Checkbox
              key={one}
              label={one.replace("-", " ")}
              checked={reach.includes(one)}
              disabled={reach.length === 1 && reach.includes(one)}
              onChange={(event) =>
                onChange({
                  reach: REACH_KINDS.filter((other) => (other === one ? event.target.checked : reach.includes(other))),
                })
              }
            />
          ))}
        </fieldset>
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

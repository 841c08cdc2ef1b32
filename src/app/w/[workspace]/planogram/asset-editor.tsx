"use client";

import { useMemo, useState } from "react";
import type { AssetSet } from "@/core/account/records/assets";
import { Checkbox } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import type { Choice } from "@/ui/search-select";
import { useFields } from "../catalogue/use-feeds";
import { AssetLines } from "./asset-lines";
import { AssetPictures } from "./asset-pictures";
import { AdSamples, ReadinessList } from "./asset-readiness";
import { useAssetLook, type AssetScope } from "./use-asset-look";

/** Lines, pictures and logo on the left; what the channel asks for and what items would show on the right. */
export function AssetEditor({
  value,
  scope,
  onChange,
}: {
  value: AssetSet;
  scope: AssetScope;
  onChange: (change: (before: AssetSet) => AssetSet) => void;
}) {
  const [find, setFind] = useState("");
  const look = useAssetLook(value, scope, find);
  const known = useFields();
  const { fields, ofPictures } = useMemo(() => {
    const choice = ({ name, label }: { name: string; label: string }): Choice => ({ value: name, label });
    return {
      fields: known.filter(({ name }) => name !== "image" && name !== "link").map(choice),
      ofPictures: known.filter(({ name, label }) => /image|picture|photo/i.test(`${name} ${label}`)).map(choice),
    };
  }, [known]);
  const set = (change: Partial<AssetSet>) => onChange((before) => ({ ...before, ...change }));
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_320px] gap-5">
      <div className="space-y-4">
        <AssetLines
          list="headlines"
          value={value.headlines}
          fields={fields}
          look={look.data}
          onChange={(headlines) => set({ headlines })}
        />
        <AssetLines
          list="descriptions"
          value={value.descriptions}
          fields={fields}
          look={look.data}
          onChange={(descriptions) => set({ descriptions })}
        />
        <AssetPictures
          value={value.pictures}
          logo={value.logo}
          fields={ofPictures}
          look={look.data}
          onChange={(change) => onChange((before) => ({ ...before, pictures: change(before.pictures) }))}
          onLogo={(logo) => set({ logo })}
        />
        <Checkbox
          label="Leave own-brand terms out"
          checked={!value.ownBrand}
          onChange={(event) => set({ ownBrand: !event.target.checked })}
        />
      </div>
      <div className="space-y-4">
        {look.error && <ErrorNote error={look.error.failure} />}
        {!look.data && !look.error && <Loading what="what items would show" />}
        {look.data && (
          <>
            <ReadinessList look={look.data} />
            <AdSamples look={look.data} find={find} onFind={setFind} />
          </>
        )}
      </div>
    </div>
  );
}

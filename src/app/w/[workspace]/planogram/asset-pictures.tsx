"use client";

import { Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { Picture as AdPicture } from "@/core/account/records/ad-lines";
import { formatCount } from "@/core/kit/format";
import type { AssetLook } from "@/server/assets/asset-groups";
import type { PictureInfo } from "@/server/assets/pictures";
import { Button } from "@/ui/button";
import { Picture } from "@/ui/item-tag";
import { SearchSelect, type Choice } from "@/ui/search-select";
import { apiUpload, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";

/** Takes files from the person's own disk; says what is wrong with those that can't be taken, and keeps the others. */
function useUploads(onPicture: (picture: AdPicture) => void) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [busy, setBusy] = useState(0);
  const upload = async (files: FileList | null) => {
    for (const file of files ?? []) {
      setBusy((count) => count + 1);
      try {
        const path = apiPath(`pictures?name=${encodeURIComponent(file.name)}`);
        const { id } = await apiUpload<PictureInfo>(path, file);
        onPicture({ from: "upload", picture: id });
      } catch (error) {
        toastError(error);
      } finally {
        setBusy((count) => count - 1);
      }
    }
    await refresh();
  };
  return { upload, isBusy: busy > 0 };
}

/** A way to add a picture: a field of the feed, one uploaded before, or a file. */
function AddPicture({
  label,
  fields,
  pictures,
  onAdd,
}: {
  label: string;
  fields: Choice[];
  pictures: PictureInfo[];
  onAdd: (picture: AdPicture) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const { upload, isBusy } = useUploads(onAdd);
  const choices: Choice[] = [
    ...fields.map((field) => ({ ...field, value: `f:${field.value}`, group: "from the feed" })),
    ...pictures.map(({ id, name, width, height }) => ({
      ...{ value: `u:${id}`, label: `${name} (${width} × ${height})`, group: "uploaded" },
    })),
  ];
  return (
    <span className="flex items-center gap-2">
      <SearchSelect
        label={`Add to ${label.toLowerCase()}`}
        className="w-56"
        value=""
        placeholder="a field or an uploaded one"
        choices={choices}
        onChange={(chosen) => {
          const name = chosen.slice(2);
          onAdd(chosen.startsWith("f:") ? { from: "field", field: name } : { from: "upload", picture: name });
        }}
      />
      <input
        ref={input}
        type="file"
        aria-label={`Upload for ${label.toLowerCase()}`}
        accept="image/png,image/jpeg,image/webp"
        multiple
        className="hidden"
        onChange={(event) => void upload(event.target.files)}
      />
      <Button disabled={isBusy} onClick={() => input.current?.click()}>
        {isBusy ? "Uploading …" : "Upload"}
      </Button>
    </span>
  );
}

/** Pictures and the logo: from the feed, so that each item shows its own, or uploaded. */
export function AssetPictures({
  value,
  logo,
  fields,
  look,
  onChange,
  onLogo,
}: {
  value: AdPicture[];
  logo: AdPicture | null;
  fields: Choice[];
  look: AssetLook | undefined;
  /** By what was there before, since several uploads may end at once. */
  onChange: (change: (before: AdPicture[]) => AdPicture[]) => void;
  onLogo: (value: AdPicture | null) => void;
}) {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const known = useApi<PictureInfo[]>(apiPath("pictures")).data ?? [];
  const { least, most } = CHANNEL_LIMITS.assets.pictures;
  const items = look?.readiness.items ?? 0;
  const nameOf = (picture: AdPicture) =>
    picture.from === "field"
      ? `${fields.find(({ value: own }) => own === picture.field)?.label ?? picture.field} of the item`
      : (known.find(({ id }) => id === picture.picture)?.name ?? "uploaded");
  const shown = (picture: AdPicture) =>
    picture.from === "upload"
      ? `/api/v1/${slug}/pictures/${picture.picture}`
      : (look?.samples[0]?.ad.pictures[0] ?? "");
  const row = (picture: AdPicture, filled: number | null, onRemove: () => void) => (
    <span className="flex items-center gap-2 text-sm">
      <Picture src={shown(picture)} className="size-9" />
      <span className="min-w-0 flex-1 truncate">
        {nameOf(picture)}
        {filled !== null && filled < items && (
          <span className="text-ember num"> · {formatCount(items - filled)} items have none</span>
        )}
      </span>
      <button
        type="button"
        aria-label={`Remove ${nameOf(picture)}`}
        className="rounded p-1 text-soft hover:bg-raised"
        onClick={onRemove}
      >
        <Trash2 aria-hidden className="size-3.5" />
      </button>
    </span>
  );
  return (
    <>
      <fieldset className="space-y-2">
        <legend className="text-sm font-semibold">
          Pictures{" "}
          <span className="font-normal text-soft num">
            {value.length}, {least} to {most}, {CHANNEL_LIMITS.pictureSide} pixels and up
          </span>
        </legend>
        {value.map((picture, at) => (
          <div key={at}>
            {row(picture, look?.readiness.pictures[at] ?? null, () => onChange((before) => before.toSpliced(at, 1)))}
          </div>
        ))}
        <AddPicture
          label="Pictures"
          fields={fields}
          pictures={known}
          onAdd={(picture) => onChange((before) => [...before, picture])}
        />
      </fieldset>
      <fieldset className="space-y-2">
        <legend className="text-sm font-semibold">
          Logo <span className="font-normal text-soft">none or one</span>
        </legend>
        {logo ? (
          row(logo, null, () => onLogo(null))
        ) : (
          <AddPicture label="Logo" fields={fields} pictures={known} onAdd={onLogo} />
        )}
      </fieldset>
    </>
  );
}

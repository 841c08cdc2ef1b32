import type { AssetSet } from "@/core/account/records/assets";
import type { AdLine } from "@/core/account/records/ad-lines";
import type { FieldInfo } from "@/server/catalogue/field-list";

/** Assets to begin with: what nearly every feed has, as far as this one has it. */
export function startAssets(fields: FieldInfo[]): AssetSet {
  const has = (name: string) => fields.some((field) => field.name === name && field.filled > 0);
  const field = (name: string): AdLine => [{ kind: "field", field: name }];
  return {
    headlines: [
      ...(has("title") ? [field("title")] : []),
      ...(has("brand") ? [field("brand")] : []),
      ...(has("price") ? [[{ kind: "text" as const, text: "Now " }, ...field("price")]] : []),
    ],
    descriptions: has("title") ? [field("title")] : [],
    pictures: has("image") ? [{ from: "field", field: "image" }] : [],
    logo: null,
    ownBrand: true,
  };
}

import { z } from "zod";
import { plural } from "../../kit/format";
import { fieldsOfParts } from "../../parts/part";
import { CHANNEL_LIMITS } from "../../channel/limits";
import { defineKind, type CellReader } from "../record-kind";
import { readChoice } from "./read-cells";
import { adLineSchema, linesAsText, linesFromText, picturesAsText, pictureSchema } from "./ad-lines";
import { keySchema } from "./basics";

/** More than the channel takes, so that what was pasted can be kept and put right. */
const MOST_KEPT = 40;

/** What an asset group's ads are put together from. */
export const assetSetSchema = z.object({
  headlines: z.array(adLineSchema).max(MOST_KEPT),
  descriptions: z.array(adLineSchema).max(MOST_KEPT),
  pictures: z.array(pictureSchema).max(MOST_KEPT),
  logo: pictureSchema.nullable(),
  /** Whether ads also stand on searches for the shop's own brands. */
  ownBrand: z.boolean(),
});
export type AssetSet = z.infer<typeof assetSetSchema>;

/** The assets of one asset group, which is an ad group of an asset campaign. */
export const assetsSchema = assetSetSchema.extend({
  type: z.literal("assets"),
  key: keySchema,
  adGroup: keySchema,
});
export type Assets = z.infer<typeof assetsSchema>;

export function assetsKey(adGroup: string): string {
  return `a:${adGroup}`;
}

/** The lists that the channel asks a least and takes a most of. */
export const ASSET_LISTS = ["headlines", "descriptions", "pictures"] as const;
export type AssetList = (typeof ASSET_LISTS)[number];

/** Of which lists there are fewer than the channel asks for, or more than it takes. */
export function wrongCounts(assets: AssetSet): AssetList[] {
  return ASSET_LISTS.filter((list) => {
    const { least, most } = CHANNEL_LIMITS.assets[list];
    return assets[list].length < least || assets[list].length > most;
  });
}

/** Whether the channel puts ads together from these; without them an asset group waits. */
export function areEnough(assets: AssetSet | undefined): boolean {
  return assets !== undefined && wrongCounts(assets).length === 0;
}

/** Fields of the catalogue that an asset set reads. */
export function fieldsOf({ headlines, descriptions, pictures, logo }: AssetSet): string[] {
  const inLines = fieldsOfParts([...headlines, ...descriptions].flat());
  const inPictures = [...pictures, ...(logo ? [logo] : [])].flatMap((one) => (one.from === "field" ? [one.field] : []));
  return [...new Set([...inLines, ...inPictures])];
}

function readLines(list: "headlines" | "descriptions"): CellReader<Assets> {
  return (record, cell, isField) => {
    const read = linesFromText(cell);
    if (typeof read === "string") return read;
    const unknown = fieldsOfParts(read.flat()).find((name) => !isField(name));
    if (unknown !== undefined) return `The catalogue has no field “${unknown}”.`;
    const checked = assetsSchema.safeParse({ ...record, [list]: read });
    return checked.success ? checked.data : "There are too many lines, or one is too long to be kept.";
  };
}

function countWords({ headlines, descriptions, pictures, logo }: AssetSet): string {
  const parts = [
    plural(headlines.length, "headline"),
    plural(descriptions.length, "description"),
    plural(pictures.length, "picture"),
  ];
  return [...parts, ...(logo ? ["a logo"] : [])].join(", ");
}

const listWords = (one: string) => (before: unknown[], after: unknown[]) =>
  before.length === after.length ? `${one}s changed` : `${plural(before.length, one)} → ${plural(after.length, one)}`;

export const assetsKind = defineKind<Assets>({
  schema: assetsSchema,
  label: ["asset set", "asset sets"],
  place: 31,
  parents: ({ adGroup }) => [{ key: adGroup, types: ["adGroup"], bond: "hangs below" }],
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    headlines: { label: "headlines", byHand: true },
    descriptions: { label: "descriptions", byHand: true },
    pictures: { label: "pictures", byHand: true },
    logo: { label: "logo", byHand: true },
    ownBrand: { label: "own-brand terms", byHand: true, decides: "serving" },
  },
  name: ({ adGroup }, known) => `assets of ${known.nameOf(adGroup) ?? adGroup}`,
  added: (assets, { name }) => `New ${name}: ${countWords(assets)}`,
  changed: {
    headlines: listWords("headline"),
    descriptions: listWords("description"),
    pictures: listWords("picture"),
    logo: (_, after) => (after ? "logo changed" : "logo taken away"),
    ownBrand: (_, after) => (after ? "also on own-brand terms" : "own-brand terms left out"),
  },
  reads: {
    headlines: readLines("headlines"),
    descriptions: readLines("descriptions"),
    own_brand: readChoice("ownBrand", { yes: true, no: false }),
  },
  cells: (assets) => ({
    ...{ product_group: countWords(assets), role: "assets" },
    ...{ headlines: linesAsText(assets.headlines), descriptions: linesAsText(assets.descriptions) },
    ...{ pictures: picturesAsText(assets.pictures), logo: assets.logo ? picturesAsText([assets.logo]) : "" },
    own_brand: assets.ownBrand ? "yes" : "no",
  }),
  fits: ["asset"],
});

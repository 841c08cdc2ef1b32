import { z } from "zod";
import { plural } from "../../kit/format";
import { textLength } from "../../kit/text-length";
import { CHANNEL_LIMITS } from "../../channel/limits";
import { defineKind, type CellReader } from "../record-kind";
import { readOptional, readStatus } from "./read-cells";
import { keySchema, nameSchema, statusSchema, switchedPlain } from "./basics";

/** More than the channel takes, so that what was pasted can be kept and put right. */
const MOST_KEPT = 20;
const lineSchema = z.string().trim().min(1).max(300);

/** A text ad of an ad group in a text campaign, as it goes out: lines with nothing left to fill in. */
export const adSchema = z.object({
  type: z.literal("ad"),
  key: keySchema,
  adGroup: keySchema,
  name: nameSchema,
  status: statusSchema,
  headlines: z.array(lineSchema).max(MOST_KEPT),
  descriptions: z.array(lineSchema).max(MOST_KEPT),
  /** Words behind the shop's address; left out: none. */
  address: z.string().trim().min(1).max(100).optional(),
  /** Where it leads; left out: to the page of the item that is shown. */
  link: z.string().trim().min(1).max(2000).optional(),
  /** Lines that stand in every view; the others take turns. */
  always: z.array(lineSchema).max(MOST_KEPT).optional(),
  /** Figures that its lines stand on, as they were said: what to look at again when one changes. */
  claims: z.record(z.string(), z.string()).optional(),
});
export type Ad = z.infer<typeof adSchema>;

const LISTS = ["headlines", "descriptions"] as const;

/** Why the channel does not take an ad, in a sentence; null where it does. */
export function adFault(ad: Pick<Ad, "headlines" | "descriptions" | "address">): string | null {
  const { textAd, wideCountTwice } = CHANNEL_LIMITS;
  for (const list of LISTS) {
    const { least, most, length } = textAd[list];
    if (ad[list].length < least) return `has ${plural(ad[list].length, list.slice(0, -1))}; ${least} are needed`;
    if (ad[list].length > most) return `has ${plural(ad[list].length, list.slice(0, -1))}; ${most} at most are taken`;
    const long = ad[list].find((line) => textLength(line, wideCountTwice) > length);
    if (long !== undefined) return `says “${long}”, which is longer than ${length} characters`;
  }
  const { length } = textAd.address;
  const isLong = ad.address !== undefined && textLength(ad.address, wideCountTwice) > length;
  return isLong ? `has an address of more than ${length} characters` : null;
}

/** What parts lines in one cell; within a line it is written as a broken bar. */
const BETWEEN = " | ";

function readLines(list: (typeof LISTS)[number]): CellReader<Ad> {
  return (record, cell) => {
    const lines = cell.split("|").map((line) => line.trim().replaceAll("¦", "|"));
    const read = { ...record, [list]: lines.filter((line) => line !== "") };
    const fault = adFault(read);
    return fault === null ? read : `The ad ${fault}.`;
  };
}

const asCell = (lines: readonly string[]) => lines.map((line) => line.replaceAll("|", "¦")).join(BETWEEN);

const listWords = (one: string) => (before: string[], after: string[]) => {
  const gone = before.filter((line) => !after.includes(line));
  const come = after.filter((line) => !before.includes(line));
  if (gone.length === 1 && come.length === 1) return `“${gone[0]}” → “${come[0]}”`;
  return gone.length + come.length === 0
    ? `${one}s in another order`
    : `${plural(come.length, one)} new, ${gone.length} gone`;
};

export const adKind = defineKind<Ad>({
  schema: adSchema,
  label: ["ad", "ads"],
  place: 32,
  parents: ({ adGroup }) => [{ key: adGroup, types: ["adGroup"], bond: "hangs below" }],
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    name: { label: "name" },
    status: { label: "status", byHand: true, decides: "serving" },
    headlines: { label: "headlines", byHand: true },
    descriptions: { label: "descriptions", byHand: true },
    address: { label: "address", byHand: true },
    link: { label: "link", byHand: true, decides: "serving" },
    always: { label: "lines that always stand", byHand: true },
    claims: { label: "figures" },
  },
  name: ({ name, adGroup }, known) => `${known.nameOf(adGroup) ?? adGroup} · ${name}`,
  added: ({ headlines, descriptions }, { name }) =>
    `New ad ${name}: “${headlines[0] ?? ""}” and ${plural(headlines.length + descriptions.length - 1, "line")} more`,
  changed: {
    headlines: listWords("headline"),
    descriptions: listWords("description"),
    always: () => "other lines stand in every view",
    // Its figures are in its lines.
    claims: () => null,
  },
  reads: {
    headlines: readLines("headlines"),
    descriptions: readLines("descriptions"),
    product_group_status: readStatus(),
    address: readOptional("address", (cell) => {
      const { length } = CHANNEL_LIMITS.textAd.address;
      return textLength(cell, CHANNEL_LIMITS.wideCountTwice) > length
        ? `The address is longer than ${length} characters.`
        : null;
    }),
    link: readOptional("link", (cell) =>
      cell === "" || /^https?:\/\/\S+$/.test(cell) ? null : `“${cell}” is no address of a page.`,
    ),
  },
  cells: ({ name, status, headlines, descriptions, address, link }) => ({
    ...{ product_group: name, role: "ad", product_group_status: status },
    ...{ headlines: asCell(headlines), descriptions: asCell(descriptions), address: address ?? "", link: link ?? "" },
  }),
  switched: switchedPlain,
  fits: ["text"],
});

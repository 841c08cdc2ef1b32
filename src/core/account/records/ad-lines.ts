import { z } from "zod";
import { partsAsText, partsFromText } from "../../parts/cell";
import { lineSchema, type Part } from "../../parts/part";

/** A line of an ad: texts, and values of the item that is shown. */
export const adLineSchema = lineSchema(12);
export type AdLine = Part[];

/** A picture: the one that a field of the item names, or one that was uploaded. */
export const pictureSchema = z.discriminatedUnion("from", [
  z.object({ from: z.literal("field"), field: z.string().min(1).max(200) }),
  z.object({ from: z.literal("upload"), picture: z.string().min(1).max(80) }),
]);
export type Picture = z.infer<typeof pictureSchema>;

/** What parts lines in one cell. */
const BETWEEN = "|";

/** Lines as one cell of a file: `[title] now [price] | Best of [brand]`. */
export function linesAsText(lines: readonly AdLine[]): string {
  return lines.map((line) => partsAsText(line, BETWEEN)).join(` ${BETWEEN} `);
}

/** Pictures as one cell: fields in brackets, uploaded ones by their name. */
export function picturesAsText(pictures: readonly Picture[]): string {
  return pictures.map((one) => (one.from === "field" ? `[${one.field}]` : one.picture)).join(` ${BETWEEN} `);
}

/**
 * Reads lines back from a cell as {@link linesAsText} writes them. Spaces around a line do not count; empty lines fall away.
 * @returns the lines, or what is wrong with the cell
 */
export function linesFromText(cell: string): AdLine[] | string {
  const lines = partsFromText(cell, BETWEEN);
  if (typeof lines === "string") return lines;
  return lines.map(trimLine).filter((line) => line.length > 0);
}

/** A line without the spaces at its ends. */
function trimLine(line: AdLine): AdLine {
  return line
    .map((part, i): Part => {
      if (part.kind === "field") return part;
      const from = i === 0 ? part.text.trimStart() : part.text;
      return { kind: "text", text: i === line.length - 1 ? from.trimEnd() : from };
    })
    .filter((part) => part.kind === "field" || part.text !== "");
}

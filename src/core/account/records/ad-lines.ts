import { z } from "zod";

/** A part of an ad line: a text, or the value of a field of the item that is shown. */
export const linePartSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("text"), text: z.string().max(200) }),
  z.object({ kind: z.literal("field"), field: z.string().min(1).max(200) }),
]);
export type LinePart = z.infer<typeof linePartSchema>;

export const adLineSchema = z.array(linePartSchema).min(1).max(12);
export type AdLine = z.infer<typeof adLineSchema>;

/** A picture: the one that a field of the item names, or one that was uploaded. */
export const pictureSchema = z.discriminatedUnion("from", [
  z.object({ from: z.literal("field"), field: z.string().min(1).max(200) }),
  z.object({ from: z.literal("upload"), picture: z.string().min(1).max(80) }),
]);
export type Picture = z.infer<typeof pictureSchema>;

/** What parts lines in one cell, and what a field stands between; with a backslash before it each is plain text. */
const BETWEEN = "|";
const ESCAPED = /[\\[\]|]/g;

/** Lines as one cell of a file: `[title] now [price] | Best of [brand]`. */
export function linesAsText(lines: readonly AdLine[]): string {
  return lines.map((line) => line.map(partAsText).join("")).join(` ${BETWEEN} `);
}

function partAsText(part: LinePart): string {
  return part.kind === "field" ? `[${part.field}]` : part.text.replace(ESCAPED, (sign) => `\\${sign}`);
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
  const lines: AdLine[] = [];
  let line: LinePart[] = [];
  let text = "";
  let field: string | null = null;
  const endText = () => {
    if (text !== "") line.push({ kind: "text", text });
    text = "";
  };
  const endLine = () => {
    endText();
    const trimmed = trimLine(line);
    if (trimmed.length > 0) lines.push(trimmed);
    line = [];
  };
  for (let at = 0; at < cell.length; at++) {
    const sign = cell[at]!;
    if (field !== null) {
      if (sign !== "]") field += sign;
      else if (field.trim() === "") return "There is a field without a name: “[]”.";
      else {
        line.push({ kind: "field", field: field.trim() });
        field = null;
      }
    } else if (sign === "\\" && at + 1 < cell.length) text += cell[++at]!;
    else if (sign === "[") {
      endText();
      field = "";
    } else if (sign === "]") return "A bracket closes that was never opened; write \\] for a plain one.";
    else if (sign === BETWEEN) endLine();
    else text += sign;
  }
  if (field !== null) return "A bracket opens that never closes; write \\[ for a plain one.";
  endLine();
  return lines;
}

/** A line without the spaces at its ends. */
function trimLine(line: LinePart[]): LinePart[] {
  return line
    .map((part, i): LinePart => {
      if (part.kind === "field") return part;
      const from = i === 0 ? part.text.trimStart() : part.text;
      return { kind: "text", text: i === line.length - 1 ? from.trimEnd() : from };
    })
    .filter((part) => part.kind === "field" || part.text !== "");
}

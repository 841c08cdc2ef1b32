import { escapeMarkup } from "../kit/markup";

/** Characters that a label may have. */
export const LABEL_LENGTH = 40;

/** A name cut to what a label may hold, at a word where one ends in its last third. */
export function fitLabel(name: string): string {
  const letters = [...name.trim()];
  if (letters.length <= LABEL_LENGTH) return letters.join("");
  const cut = letters.slice(0, LABEL_LENGTH).join("");
  const space = cut.lastIndexOf(" ");
  return (space > (LABEL_LENGTH * 2) / 3 ? cut.slice(0, space) : cut).trim();
}

/** The heading of a set's labels until somebody gives it another one. */
export const labelHeading = (setKey: string) => `shelf_${setKey.replaceAll("-", "_")}`;

/** A label column: which set writes it, under which heading. */
export interface LabelColumn {
  name: string;
  setKey: string;
}

/** What keeps label columns from saying what they should, in sentences. */
export function labelClashes(columns: (LabelColumn & { setName: string; shelves: string[] })[]): string[] {
  const clashes: string[] = [];
  columns.forEach(({ name, setKey, setName, shelves }, at) => {
    const twin = columns.slice(0, at).find((other) => other.name.toLowerCase() === name.toLowerCase());
    if (twin) clashes.push(`Two columns are headed "${name}"; a channel takes only one of them.`);
    if (columns.slice(0, at).some((other) => other.setKey === setKey)) clashes.push(`"${setName}" writes two columns.`);
    const fitted = shelves.map((shelf) => fitLabel(shelf).toLowerCase());
    const same = fitted.findIndex((label, i) => fitted.indexOf(label) !== i);
    if (same >= 0)
      clashes.push(
        `Two shelves of "${setName}" have the label "${fitLabel(shelves[same]!)}" once cut to ${LABEL_LENGTH} characters.`,
      );
  });
  return clashes;
}

/** A name as an XML element: what such names can't hold becomes a low line. */
function elementName(name: string): string {
  const plain = name.trim().replace(/[^\p{L}\p{N}_.-]+/gu, "_");
  return /^[\p{L}_]/u.test(plain) ? plain : `_${plain}`;
}

/** Labels as XML: an `item` each with its `id` and an element a column. */
export function labelsXml(headings: string[], rows: string[][]): string {
  const names = headings.map(elementName);
  const items = rows.map(
    (row) => `<item>${row.map((cell, i) => `<${names[i]}>${escapeMarkup(cell)}</${names[i]}>`).join("")}</item>`,
  );
  return `<?xml version="1.0" encoding="UTF-8"?>\n<items>\n${items.join("\n")}\n</items>\n`;
}

import { TextColumnBuilder, type Columns, type TextColumn } from "../kit/columns";

/**
 * Basic colour words in the languages feeds come in; a feed's own colour column adds to them. Words that are things in
 * another language (such as the French for pink) are left out.
 */
const COLORS = new Set(
  (
    "black white red green blue yellow orange purple violet pink brown grey gray beige cream ivory silver gold golden " +
    "navy turquoise teal olive khaki burgundy anthracite natural transparent clear multicolour multicolor copper bronze " +
    "schwarz weiß weiss rot grün gruen blau gelb lila rosa braun grau silber gold türkis natur bunt " +
    "noir blanc rouge vert bleu jaune violet marron gris argent doré negro blanco rojo verde azul amarillo gris"
  ).split(" "),
);
const SIZES = new Set(
  (
    "xxs xs s m l xl xxl xxxl 2xl 3xl 4xl small medium large mini midi maxi tall short narrow wide standard single double " +
    "pair klein mittel groß gross petit moyen grand"
  ).split(" "),
);
const UNIT =
  /(?<![\p{L}\p{N}])\d+(?:[.,]\d+)?\s*(?:x\s*\d+(?:[.,]\d+)?\s*)*(?:mm|cm|m|km|in|inch|ft|ml|cl|l|litre|liter|g|kg|mg|oz|lb|w|watt|v|mah|gb|tb|pcs|pieces|pack|stk|stück|°|"|')(?![\p{L}\p{N}])/giu;

/** What is left of a title without colour, size and measures, and what was taken out. */
export function titleWithoutVariation(title: string, color: string, size: string): { base: string; variation: string } {
  const taken: string[] = [];
  let rest = ` ${title.toLowerCase()} `;
  for (const value of [color, size]) {
    const wanted = value.trim().toLowerCase();
    if (wanted !== "" && rest.includes(` ${wanted} `)) {
      rest = rest.replace(` ${wanted} `, " ");
      taken.push(wanted);
    }
  }
  rest = rest.replace(UNIT, (found) => {
    taken.push(found.replace(/\s/g, ""));
    return " ";
  });
  const words = rest.split(/[^\p{L}\p{M}\p{N}]+/u).filter((word) => word !== "");
  const kept = words.filter((word) => {
    const isVariation = COLORS.has(word) || SIZES.has(word) || /^\d{1,2}$/.test(word);
    if (isVariation) taken.push(word);
    return !isVariation;
  });
  return { base: kept.join(" "), variation: taken.join(" ") };
}

/** Mark in front of a proposed family, so that it can't be taken for one of the feed. */
export const PROPOSED_MARK = "~ ";

/**
 * Families as the feed names them, and for items without one those proposed: items of one brand whose titles are the
 * same but for colour, size or measures. Titles that are the same altogether are repeats, not variants.
 * @returns the column, and which rows got a proposed family
 */
export function proposeFamilies(table: Columns): { family: TextColumn; proposed: Uint8Array } {
  // Each column is taken once: in a large catalogue a look at one reads it anew.
  const reader = (name: string) => {
    const column = table.columns[name];
    if (column?.kind !== "text") return () => "";
    const { codes, values } = column;
    return (row: number) => values[codes[row]!]!;
  };
  const [familyOf, titleOf, colorOf, sizeOf, brandOf] = [
    reader("family"),
    reader("title"),
    reader("color"),
    reader("size"),
    reader("brand"),
  ];
  const groups = new Map<string, { rows: number[]; variations: Set<string> }>();
  for (let row = 0; row < table.length; row++) {
    if (familyOf(row) !== "") continue;
    const { base, variation } = titleWithoutVariation(titleOf(row), colorOf(row), sizeOf(row));
    if (variation === "" || base.split(" ").length < 2) continue;
    const key = `${brandOf(row).toLowerCase()}\u0000${base}`;
    const group = groups.get(key) ?? { rows: [], variations: new Set<string>() };
    groups.set(key, group);
    group.rows.push(row);
    group.variations.add(variation);
  }
  const proposed = new Uint8Array(table.length);
  const names = new Map<number, string>();
  for (const [key, { rows, variations }] of groups) {
    if (rows.length < 2 || variations.size < rows.length) continue;
    const name = PROPOSED_MARK + key.replace("\u0000", " ").trim();
    for (const row of rows) {
      proposed[row] = 1;
      names.set(row, name);
    }
  }
  const builder = new TextColumnBuilder();
  for (let row = 0; row < table.length; row++) builder.push(names.get(row) ?? familyOf(row));
  return { family: builder.finish(), proposed };
}

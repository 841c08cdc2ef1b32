/** A tax rate as feeds write it: `19`, `19 %`, `0.19`; null for a text that is none. */
export function readTax(text: string): number | null {
  const found = /^(\d{1,2}(?:[.,]\d{1,4})?)\s*%?$/.exec(text.trim());
  if (!found) return null;
  const value = Number(found[1]!.replace(",", "."));
  return value < 1 && !text.includes("%") ? value : value / 100;
}

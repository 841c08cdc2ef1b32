import { planogramOfLabels, shelfSetOf } from "./records/labels";

/** How a field that groups are split by is called in words, whatever it is called inside: `derived:season` is season. */
export function splitName(by: string): string {
  const set = shelfSetOf(by);
  const planogram = set === null ? null : planogramOfLabels(set);
  if (planogram !== null) return `items of the planogram ${planogram.replaceAll("-", " ")}`;
  if (set !== null) return `shelf of ${set.replaceAll("-", " ")}`;
  const [prefix, name = ""] = by.includes(":")
    ? [by.slice(0, by.indexOf(":")), by.slice(by.indexOf(":") + 1)]
    : ["", by];
  if (prefix === "own") return `${splitName(name)}, as in the feed`;
  if (prefix === "feed") return name;
  if (name === "id") return "item";
  const level = /^category(\d)$/.exec(name)?.[1];
  if (level) return `category, level ${level}`;
  // A second form of a derived field has its number behind the key.
  const plain = prefix === "derived" ? name.replace(/:\d+$/, "").replaceAll("-", " ") : name;
  return plain.replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`);
}

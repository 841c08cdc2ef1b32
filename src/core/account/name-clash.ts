import { CAMPAIGN_KINDS, PURPOSES, type Campaign } from "./records/campaign";

/** A word that tells a setting, as it stands in names: also as a plural, as in "keywords". */
function says(name: string, word: string): boolean {
  return new RegExp(`(^|[^\\p{L}])${word}s?([^\\p{L}]|$)`, "iu").test(name);
}

/**
 * What a campaign's name says of it that its settings do not: a purpose or a kind other than its own, where its own is not
 * named too. Null where it says nothing wrong.
 */
export function nameClash({ name, kind, purpose }: Pick<Campaign, "name" | "kind" | "purpose">): string | null {
  if (!says(name, purpose)) {
    const other = PURPOSES.find((word) => says(name, word));
    if (other) return `“${other}” in the name, its purpose is ${purpose}`;
  }
  if (!says(name, kind)) {
    const other = CAMPAIGN_KINDS.find((word) => says(name, word));
    if (other) return `“${other}” in the name, its kind is ${kind}`;
  }
  return null;
}

/** A name that says one purpose, saying another in its place; capital where it was. Other names stay as they are. */
export function nameFollowing(name: string, before: Campaign["purpose"], after: Campaign["purpose"]): string {
  return name.replace(
    new RegExp(`(^|[^\\p{L}])(${before})(?=[^\\p{L}]|$)`, "iu"),
    (_, ahead: string, word: string) =>
      ahead +
      (word.charAt(0) === word.charAt(0).toUpperCase() ? after.charAt(0).toUpperCase() + after.slice(1) : after),
  );
}

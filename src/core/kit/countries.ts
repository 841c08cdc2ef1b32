/** Countries that campaigns can sell in, by their ISO 3166 codes. */
export const COUNTRIES = [
  ...["AT", "AU", "BE", "BG", "BR", "CA", "CH", "CZ", "DE", "DK", "EE", "ES", "FI", "FR", "GB", "GR", "HR", "HU", "IE"],
  ...["IN", "IT", "JP", "LT", "LU", "LV", "MX", "NL", "NO", "NZ", "PL", "PT", "RO", "SE", "SI", "SK", "TR", "US"],
];

let names: Intl.DisplayNames | undefined;

/** A country's name in English; its code where it has none. */
export function countryName(code: string): string {
  names ??= new Intl.DisplayNames("en", { type: "region" });
  return names.of(code) ?? code;
}

/** What is asked for of the ads that there are; the first time with nothing looked for. */
export function adsPath(days: string | number, only = "all", find = ""): string {
  return `text-ads?days=${days}&only=${only}&find=${encodeURIComponent(find)}`;
}

/** What a placement can be. */
export const PLACEMENT_KINDS = ["site", "app", "channel", "video", "partner search"] as const;
export type PlacementKind = (typeof PLACEMENT_KINDS)[number];

/** Words of reports by what they mean. */
const TOLD: Record<PlacementKind, readonly string[]> = {
  site: ["site", "website", "web", "webseite", "domain", "page", "sitio", "sito"],
  app: ["app", "apps", "application", "anwendung", "aplicacion", "applicazione", "in-app"],
  channel: ["channel", "kanal", "chaine", "canal", "canale", "kanaal"],
  video: ["video", "clip", "film"],
  "partner search": ["search", "partner", "suche", "suchpartner", "recherche", "busqueda", "ricerca"],
};

/** Endings that hosts have, and that app names begin with. */
const ENDINGS = new Set(["com", "org", "net", "io", "de", "fr", "es", "it", "nl", "uk", "eu", "app", "co"]);

/**
 * What kind a placement is: as its report says, or by the shape of its address.
 * @param told the report's word for it; "" where it has none
 */
export function placementKind(address: string, told: string): { kind: PlacementKind; isTold: boolean } {
  const words = told
    .toLowerCase()
    .normalize("NFD")
    .replace(/\p{M}/gu, "")
    .split(/[^a-z-]+/);
  // The narrower word decides: "search partner site" is partner search, "video app" an app.
  for (const kind of ["partner search", "app", "channel", "video", "site"] as const) {
    if (words.some((word) => TOLD[kind].includes(word))) return { kind, isTold: true };
  }
  return { kind: byShape(address), isTold: false };
}

function byShape(address: string): PlacementKind {
  const [host = "", ...path] = address.split("/");
  const labels = host.split(".");
  if (/^(?:id)?\d{6,}$/.test(host)) return "app";
  if (path.length === 0 && isAppName(host)) return "app";
  if (labels[0] === "app" || labels[0] === "apps" || path[0] === "apps") return "app";
  if (path[0] === "channel" || path[0]?.startsWith("@")) return "channel";
  if (path[0] === "watch" || path[0] === "video" || path[0] === "videos") return "video";
  if (labels[0] === "search" || path[0] === "search") return "partner search";
  return "site";
}

/** Whether a host is the name of an app in a store: those stand the other way round than hosts, com.maker.name. */
export function isAppName(host: string): boolean {
  const labels = host.split(".");
  return labels.length >= 3 && ENDINGS.has(labels[0]!) && !ENDINGS.has(labels.at(-1)!);
}

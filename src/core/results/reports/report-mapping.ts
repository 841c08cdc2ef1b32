import { detectDateOrder, readDay, readHour } from "./report-dates";
import {
  COUNT_FIELDS,
  REPORT_FIELD_LABEL,
  REPORT_FIELDS,
  REPORT_SHAPE,
  type ReportField,
  type ReportKind,
  type ReportMapping,
} from "./report-kinds";
import { currencyIn, detectDecimalMark, readAmount, readCounted } from "./report-numbers";

/** Headings as exports in several languages write them, folded to letters and digits; the first ones are the surest. */
const HEADINGS: Record<ReportField, string[]> = {
  day: [
    ...["day", "date", "datum", "tag", "jour", "fecha", "data", "reportdate", "starttime", "startdate", "orderdate"],
    ...["firstday", "periodstart", "reportstart", "from", "start", "von", "erstertag", "datedebut", "fechainicio"],
  ],
  lastDay: [
    ...["lastday", "enddate", "periodend", "reportend", "endtime", "to", "end", "bis", "letztertag", "enddatum"],
    ...["datefin", "fechafin", "datafine", "einddatum"],
  ],
  campaign: ["campaign", "campaignname", "kampagne", "kampagnenname", "campagne", "campana", "campagna"],
  campaignId: ["campaignid", "kampagnenid", "kampagnenummer", "campagneid", "idcampagne", "idcampana", "idcampagna"],
  campaignKind: [
    "campaignkind",
    "campaigntype",
    "advertisingchanneltype",
    "kampagnentyp",
    "kampagnenart",
    "channeltype",
  ],
  adKind: ["adkind", "adtype", "adformat", "anzeigentyp", "anzeigenart", "anzeigenformat", "creativetype"],
  adGroup: ["adgroup", "adgroupname", "anzeigengruppe", "grouped", "groupdannonces", "grupodeanuncios"],
  target: ["target", "targeting", "keyword", "keywordtext", "suchbegriffziel", "ausrichtung", "productgroup", "motcle"],
  matchType: ["matchtype", "keywordmatchtype", "ubereinstimmungstyp", "typedecorrespondance", "keywordtype", "match"],
  item: [
    "itemid",
    "item",
    "productid",
    "sku",
    "offerid",
    "artikelnummer",
    "artikel",
    "produktid",
    "productitemid",
    "id",
  ],
  term: ["searchterm", "term", "query", "searchquery", "customersearchterm", "suchbegriff", "suchanfrage", "listing"],
  placement: [
    ...["placementurl", "placementaddress", "siteurl", "domain", "url"],
    ...["placement", "platzierung", "emplacement", "site", "website", "app", "appid", "channelurl", "placementid"],
  ],
  placementName: [
    ...["placementname", "displayname", "sitename", "appname", "channelname", "platzierungsname"],
    ...["placement", "platzierung", "emplacement", "site", "website", "app"],
  ],
  placementKind: ["placementkind", "placementtype", "platzierungstyp", "sitetype", "typedemplacement"],
  slot: [
    ...["slot", "position", "adslot", "placementtype", "anzeigenposition", "platz"],
    ...["network", "adnetwork", "adnetworktype", "networkwithsearchpartners", "netzwerk", "werbenetzwerk", "reseau"],
  ],
  hour: ["hour", "hourofday", "stunde", "uhrzeit", "heure", "hora", "time"],
  currency: ["currency", "currencycode", "wahrung", "waehrung", "devise", "moneda", "valuta"],
  impressions: ["impressions", "impr", "views", "einblendungen", "impressionen", "impresiones", "shows"],
  clicks: ["clicks", "klicks", "clics", "clicstotaux", "click"],
  cost: ["spend", "cost", "kosten", "ausgaben", "cout", "coste", "costo", "amountspent", "adspend", "totalcost"],
  orders: ["orders", "conversions", "purchases", "bestellungen", "conv", "transactions", "sales14dorders", "commandes"],
  units: ["units", "unitssold", "quantity", "stuck", "stueck", "menge", "einheiten", "itemssold"],
  revenue: [
    "sales",
    "revenue",
    "adsales",
    "umsatz",
    "conversionvalue",
    "convvalue",
    "totalsales",
    "turnover",
    "ventes",
  ],
};

/** A heading without accents, signs, and what stands in brackets, as headings are compared. */
export function foldReportHeading(heading: string): string {
  return heading
    .normalize("NFD")
    .replace(/\([^)]*\)|\[[^\]]*\]|\p{M}/gu, "")
    .toLowerCase()
    .replace(/[^a-z0-9]/g, "");
}

/** How well a heading names a field, 0 to 1. */
function nameScore(heading: string, field: ReportField): number {
  const folded = foldReportHeading(heading);
  const known = HEADINGS[field];
  const at = known.indexOf(folded);
  if (at >= 0) return 1 - 0.02 * at;
  return known.some((name) => name.length >= 4 && folded.includes(name)) ? 0.5 : 0;
}

/** Share of a column's values that can be what the field holds. */
function valueShare(field: ReportField, values: string[]): number {
  if (values.length === 0) return 0;
  const fits = (text: string): boolean => {
    if (field === "day" || field === "lastDay")
      return readDay(text, "day-month", "UTC") !== null || readDay(text, "month-day", "UTC") !== null;
    if (field === "hour") return readHour(text) !== null;
    if (field === "cost" || field === "revenue") return readAmount(text, ".").ok || readAmount(text, ",").ok;
    if ((COUNT_FIELDS as readonly string[]).includes(field))
      return readCounted(text, ".").ok || readCounted(text, ",").ok;
    return true;
  };
  return values.filter(fits).length / values.length;
}

/** Fields of every kind: the days a row is of, and the currency it is in. */
const OF_ALL: readonly ReportField[] = ["day", "lastDay", "currency"];

/** The fields of a kind: those of all, what it is divided by, and what it counts. */
export function fieldsOfKind(kind: ReportKind): ReportField[] {
  const { dimensions, traits, counts } = REPORT_SHAPE[kind];
  const own: readonly ReportField[] = [...OF_ALL, ...dimensions, ...traits, ...counts];
  return REPORT_FIELDS.filter((field) => own.includes(field));
}

/** Proposes how a report is read, from its headings and some rows. A column serves one field. */
export function proposeReportMapping(kind: ReportKind, headings: string[], rows: string[][]): ReportMapping {
  const values = headings.map((_, at) => rows.map((cells) => (cells[at] ?? "").trim()).filter((text) => text !== ""));
  const scored = fieldsOfKind(kind).flatMap((field) =>
    headings.map((heading, at) => {
      const name = nameScore(heading, field);
      // Values alone tell only a day; without a fitting name anything else would be a guess with money.
      const share = valueShare(field, values[at]!);
      const score = field === "day" && name === 0 ? 0.4 * (share >= 0.9 ? share : 0) : name * (0.4 + 0.6 * share);
      return { field, at, score: share < 0.5 && name < 0.9 ? 0 : score };
    }),
  );
  scored.sort((a, b) => b.score - a.score || a.at - b.at);
  const columns: ReportMapping["columns"] = {};
  const taken = new Set<number>();
  for (const { field, at, score } of scored) {
    if (score < 0.3 || columns[field] !== undefined || taken.has(at)) continue;
    columns[field] = headings[at]!;
    taken.add(at);
  }
  const of = (field: ReportField) => values[headings.indexOf(columns[field] ?? "")] ?? [];
  const amounts = [...of("cost"), ...of("revenue")];
  const named = [columns.cost, columns.revenue, ...amounts].map((text) => currencyIn(text ?? "")).find(Boolean);
  return {
    columns,
    renamed: {},
    dateOrder: detectDateOrder(of("day")).order,
    window: null,
    decimal: detectDecimalMark(amounts),
    currency: named ?? null,
    rate: null,
  };
}

/** The kind of report a header fits best, proposed before a person says. */
export function guessKind(headings: string[]): ReportKind {
  const has = (field: ReportField) => headings.some((heading) => nameScore(heading, field) >= 0.9);
  if (has("term")) return "term";
  if (has("placement") && !has("item")) return "placement";
  if (has("slot")) return "slot";
  if (has("hour")) return "hour";
  return has("item") && !has("cost") && !has("clicks") ? "store" : "item";
}

/** Sentences about what a mapping lacks or names that is not there; none when it can be used. */
export function reportGaps(kind: ReportKind, mapping: ReportMapping, headings: string[]): string[] {
  const gaps: string[] = [];
  for (const field of REPORT_SHAPE[kind].must) {
    const heading = mapping.columns[field];
    if (field === "day" && !heading && mapping.window) continue;
    if (!heading && field === "day") {
      gaps.push("Day has no column; where the rows are sums over some days, say which.");
      continue;
    }
    if (!heading) gaps.push(`${REPORT_FIELD_LABEL[field]} has no column.`);
  }
  for (const [field, heading] of Object.entries(mapping.columns)) {
    if (heading && !headings.includes(heading)) {
      gaps.push(`${REPORT_FIELD_LABEL[field as ReportField]}: the file has no column "${heading}".`);
    }
  }
  return gaps;
}

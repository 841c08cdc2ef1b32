import { formatDay, parseDay, type Day } from "../../kit/days";
import { SLOT_KEYS } from "../../kit/slots";
import { readDay, readHour } from "./report-dates";
import {
  COUNT_FIELDS,
  REPORT_FIELD_LABEL,
  REPORT_SHAPE,
  type CountField,
  type DimensionField,
  type ReportField,
  type ReportKind,
  type ReportMapping,
  type TraitField,
} from "./report-kinds";
import { readAmount, readCounted } from "./report-numbers";

/** A row of a report, read. Money in mills of the workspace's currency. */
export interface ReportLine {
  day: Day;
  /** The last day it sums over; the same as `day` for a row of one day. */
  lastDay: Day;
  /** Texts as they came; slot and hour as numbers in text. */
  dimensions: Record<DimensionField, string>;
  /** What else the row says of what it is divided by; only what it says. */
  traits: Partial<Record<TraitField, string>>;
  counts: Record<CountField, number>;
}

export type ReadLine =
  { is: "line"; line: ReportLine } | { is: "totals" } | { is: "empty" } | { is: "aside"; reason: string };

/** A cell that says it sums others. "Total garden care" is a name; "Total", "Total: Tools" and "Summe (alle)" are not. */
const TOTALS =
  /^(?:grand\s+|sub)?(?:totals?|sum|summe|gesamt|gesamtsumme|insgesamt|totaux|totale)(?:\s*$|\s*[:(]|\s+[-–]\s)|^(?:all|alle)\s+(?:items|campaigns|rows|kampagnen)$/i;

/** Reports from before this day are faults of reading. */
const FIRST_DAY = parseDay("2000-01-01");

/**
 * Whether a row sums others: a cell that says so, and not as the name of a single row. A name counts only where nothing
 * else of the row is said.
 */
function isTotals(cells: string[], said: string[], name: string): boolean {
  const isAlone = said.every((text) => text === "" || text === name);
  const saying = [...said, cells[0]?.trim() ?? ""].filter((text) => isAlone || text !== name);
  return saying.some((text) => TOTALS.test(text));
}

const SLOT_WORDS: [number, RegExp][] = [
  [0, /lead|top|first|oben/i],
  [3, /partner|media|(?<!search[ -]?)network|off[- ]?site|display/i],
  [2, /item|product|detail|listing|page/i],
  [1, /lower|rest|other|search|result|bottom/i],
];

/** The slot a text means: by its key or name, else by a telling word. */
export function readSlot(text: string): number | null {
  const folded = text
    .trim()
    .toLowerCase()
    .replace(/[\s_]+/g, "-");
  const at = (SLOT_KEYS as readonly string[]).indexOf(folded);
  if (at >= 0) return at;
  return SLOT_WORDS.find(([, words]) => words.test(text))?.[0] ?? null;
}

/**
 * Makes the reader of a report's rows.
 * @param currency the workspace's; amounts in another are turned by the mapping's rate when it is the file's currency
 * @param timeZone the workspace's, for times that name a zone
 * @param lastDay the last day that can have happened; a row of a later one is set aside
 */
export function reportReader(
  kind: ReportKind,
  mapping: ReportMapping,
  headings: string[],
  currency: string,
  timeZone: string,
  lastDay: Day = Infinity,
): (cells: string[]) => ReadLine {
  const at = (field: ReportField) => {
    const heading = mapping.columns[field];
    return heading ? headings.indexOf(heading) : -1;
  };
  const dayAt = at("day");
  const lastAt = at("lastDay");
  const whole = mapping.window && dayAt < 0 ? mapping.window : null;
  // What a row is named by can be any word that people search for or sell, "total" and "sum" among them.
  const namingAt = at(kind === "term" ? "term" : kind === "placement" ? "placement" : "item");
  const { dimensions, traits, counts, must } = REPORT_SHAPE[kind];
  const said = traits.map((field) => [field, at(field)] as const).filter(([, index]) => index >= 0);
  const dims = dimensions.map((field) => [field, at(field)] as const);
  const numbers = counts.map((field) => [field, at(field)] as const);
  const currencyAt = at("currency");
  const fileCurrency = mapping.currency ?? currency;
  const rate = fileCurrency === currency ? 1 : (mapping.rate ?? NaN);
  // Reports repeat days row after row; each way of writing one is read once.
  const days = new Map<string, Day | null>();
  const dayIn = (text: string) => {
    let day = days.get(text);
    if (day === undefined) {
      day = readDay(text, mapping.dateOrder, timeZone);
      days.set(text, day);
    }
    return day;
  };
  return (cells) => {
    if (cells.every((cell) => cell.trim() === "")) return { is: "empty" };
    const cell = (index: number) => (index < 0 ? "" : (cells[index] ?? "").trim());
    const named = [dayAt, ...dims.map(([, index]) => index)].filter((index) => index >= 0).map(cell);
    if (named.every((text) => text === "") || isTotals(cells, named, cell(namingAt))) return { is: "totals" };
    const dayText = whole ? whole.from : cell(dayAt);
    const day = dayIn(dayText);
    if (day === null) {
      const reason = dayText === "" ? "No day." : `"${dayText.slice(0, 40)}" is no day that can be read.`;
      return { is: "aside", reason };
    }
    if (day > lastDay || day < FIRST_DAY) {
      const why = day > lastDay ? "lies in the future" : "lies before the year 2000";
      return { is: "aside", reason: `"${dayText.slice(0, 40)}" ${why}.` };
    }
    const lastText = whole ? whole.to : cell(lastAt);
    const lastRead = lastText === "" ? day : dayIn(lastText);
    if (lastRead === null || lastRead < day || lastRead > lastDay) {
      return {
        is: "aside",
        reason: `"${lastText.slice(0, 40)}" is no last day of a row that begins on ${formatDay(day)}.`,
      };
    }
    const rowCurrency = cell(currencyAt).toUpperCase();
    if (rowCurrency !== "" && rowCurrency !== fileCurrency) {
      return { is: "aside", reason: `The row is in ${rowCurrency.slice(0, 10)}, the file in ${fileCurrency}.` };
    }
    const line: ReportLine = {
      day,
      lastDay: lastRead,
      dimensions: { campaign: "", adGroup: "", target: "", item: "", term: "", placement: "", slot: "", hour: "" },
      traits: {},
      counts: { impressions: 0, clicks: 0, cost: 0, orders: 0, units: 0, revenue: 0 },
    };
    for (const [field, index] of said) if (cell(index) !== "") line.traits[field] = cell(index);
    for (const [field, index] of dims) {
      const text = cell(index);
      // Reports name no term for a part of the clicks; what they cost counts all the same.
      if (text === "" && field !== "term" && must.includes(field))
        return { is: "aside", reason: `No ${REPORT_FIELD_LABEL[field]}.` };
      if (field === "slot" || field === "hour") {
        const value = field === "slot" ? readSlot(text) : readHour(text);
        if (value === null) {
          return {
            is: "aside",
            reason: `"${text.slice(0, 40)}" is no ${REPORT_FIELD_LABEL[field].toLowerCase()} that is known.`,
          };
        }
        line.dimensions[field] = String(value);
      } else line.dimensions[field] = text;
    }
    for (const [field, index] of numbers) {
      const text = cell(index);
      const isMoney = field === "cost" || field === "revenue";
      const read = isMoney ? readAmount(text, mapping.decimal) : readCounted(text, mapping.decimal);
      if (!read.ok) {
        return { is: "aside", reason: `${REPORT_FIELD_LABEL[field]} "${text.slice(0, 40)}" is no number.` };
      }
      if (read.currency !== null && read.currency !== fileCurrency) {
        return {
          is: "aside",
          reason: `${REPORT_FIELD_LABEL[field]} is in ${read.currency}, the file in ${fileCurrency}.`,
        };
      }
      line.counts[field] = isMoney ? Math.round(read.value * rate) : read.value;
    }
    return { is: "line", line };
  };
}

/** What is odd about a line, counted for the notices: nothing of it keeps the line out. */
export const ODDITIES = ["clicks-above-impressions", "orders-without-clicks", "below-zero"] as const;
export type Oddity = (typeof ODDITIES)[number];

export function odditiesOf({ counts }: ReportLine, mapped: Set<CountField>): Oddity[] {
  const odd: Oddity[] = [];
  if (mapped.has("impressions") && mapped.has("clicks") && counts.clicks > counts.impressions) {
    odd.push("clicks-above-impressions");
  }
  if (mapped.has("clicks") && counts.orders > 0 && counts.clicks === 0) odd.push("orders-without-clicks");
  if (COUNT_FIELDS.some((field) => counts[field] < 0)) odd.push("below-zero");
  return odd;
}

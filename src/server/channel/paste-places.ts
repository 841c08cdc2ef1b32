import Papa from "papaparse";
import { z } from "zod";
import { detectDelimiter } from "@/core/catalogue/detect";
import { readCount } from "@/core/catalogue/read-count";
import { LISTING_ROLES, placeSchema, type ListingRole, type Place } from "@/core/channel/place";
import { plural } from "@/core/kit/format";
import { parseMoney } from "@/core/kit/money";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { keepGiven } from "./places";

/**
 * Lines of a spreadsheet or a file: without headings a listing each, its code, title, category, price, rating, reviews; with
 * headings listings, terms or items, and what clicks cost there.
 */
export const pastePlacesSchema = z.object({
  text: z.string().min(1).max(20_000_000),
  origin: z.enum(["pasted", "file"]).default("pasted"),
});

/** What became of given lines: how many were taken in, and what was wrong with the others. */
export interface GivenPlaces {
  taken: number;
  /** Columns that are not known and were left alone. */
  leftAlone: string[];
  faults: { line: number; message: string }[];
}

const MOST_FAULTS = 50;
const MOST_LINES = 50_000;

/** What a column may be called; the first is what it is called here. */
const HEADINGS = {
  listing: ["listing", "code", "id"],
  term: ["term", "query", "keyword", "search term"],
  item: ["item", "item id"],
  title: ["title", "name"],
  category: ["category"],
  price: ["price"],
  rating: ["rating", "stars"],
  reviews: ["reviews"],
  role: ["role"],
  low: ["low", "low cpc"],
  typical: ["typical", "typical cpc", "cpc"],
  high: ["high", "high cpc"],
  views: ["views a month", "monthly views", "views", "volume"],
} as const;
type Column = keyof typeof HEADINGS;
const KIND: Partial<Record<Column, Place["kind"]>> = { listing: "listing", term: "query", item: "item" };
const PLAIN: Column[] = ["listing", "title", "category", "price", "rating", "reviews"];

const columnOf = (heading: string): Column | null => {
  const wanted = heading.trim().toLowerCase();
  const found = Object.entries(HEADINGS).find(([, names]) => (names as readonly string[]).includes(wanted));
  return (found?.[0] as Column | undefined) ?? null;
};

/** A line's place, or what is wrong with it. */
function readLine(cells: string[], columns: (Column | null)[]): Place | string {
  const cell = (column: Column) => (cells[columns.indexOf(column)] ?? "").trim();
  const named = (Object.keys(KIND) as Column[]).filter((column) => columns.includes(column) && cell(column) !== "");
  if (named.length === 0) {
    return columns.includes("term") || columns.includes("item")
      ? "There is no listing, term or item."
      : "There is no listing's code in the first column.";
  }
  if (named.length > 1) return "It names more than one of listing, term and item.";
  const name = cell(named[0]!);
  if (name.length > 300) return "The code is longer than 300 characters.";
  const money: Record<string, number | null> = {};
  for (const column of ["price", "low", "typical", "high"] as const) {
    const parsed = cell(column) === "" ? null : parseMoney(cell(column));
    if (parsed && !parsed.ok) return `“${cell(column)}” is no ${column === "price" ? "price" : "amount"}.`;
    money[column] = parsed?.ok ? parsed.mills : null;
  }
  const rating = cell("rating") === "" ? null : Number(cell("rating").replace(",", "."));
  if (rating !== null && !(rating >= 1 && rating <= 5)) return `“${cell("rating")}” is no rating from 1 to 5.`;
  const reviews = cell("reviews") === "" ? null : readCount(cell("reviews"));
  if (reviews === null && cell("reviews") !== "") return `“${cell("reviews")}” is no number of reviews.`;
  const views = cell("views") === "" ? null : readCount(cell("views"));
  if (views === null && cell("views") !== "") return `“${cell("views")}” is no number of views.`;
  const role = cell("role").toLowerCase();
  if (role !== "" && !LISTING_ROLES.includes(role as ListingRole))
    return `“${cell("role")}” is none of ${LISTING_ROLES.join(", ")}.`;
  const { low, typical, high } = money;
  if (typical === null && (low !== null || high !== null))
    return "A low or high price needs the typical one beside it.";
  const read = placeSchema.safeParse({
    ...{ kind: KIND[named[0]!], name, category: cell("category").slice(0, 500), title: cell("title").slice(0, 300) },
    ...{ price: money["price"], low, typical, high, monthlyViews: views },
    ...{ rating: rating === null ? null : Math.round(rating * 100) / 100, reviews },
    role: role === "" ? "unknown" : role,
  });
  return read.success ? read.data : "An amount or a number in it is too large.";
}

/** Takes places in from given lines. A line that can't be read is said and left out; the others go in. */
export async function pastePlaces(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  { text, origin }: z.output<typeof pastePlacesSchema>,
): Promise<Outcome<GivenPlaces>> {
  // As spreadsheets copy them: cells with line ends, quotes or delimiters in them stand in quotes.
  const delimiter = text.includes("\t") ? "\t" : text.includes(";") ? ";" : detectDelimiter(text);
  const lines = Papa.parse<string[]>(text, { delimiter }).data;
  if (lines.length > MOST_LINES)
    return fail("places-many", "There are more than 50,000 lines.", "Take them in in parts.");
  const first = lines.findIndex((line) => line.some((cell) => cell.trim() !== ""));
  const headings = (lines[first] ?? []).map(columnOf);
  // One telling word in the first cell is a heading; what stands beside it may be called anything.
  const hasHeadings = headings[0] !== null && headings[0] !== undefined && headings[0] in KIND;
  const columns =
    hasHeadings || headings.filter((column) => column !== null).length > 1
      ? headings.map((column, at) => column ?? (headings.filter(Boolean).length === 1 ? (PLAIN[at] ?? null) : null))
      : PLAIN;
  const isHeaded = columns !== PLAIN;
  const leftAlone = isHeaded
    ? (lines[first] ?? []).filter((_, at) => columns[at] === null && lines[first]![at] !== "")
    : [];
  const faults: GivenPlaces["faults"] = [];
  const places = new Map<string, Place>();
  lines.forEach((line, at) => {
    if (line.every((cell) => cell.trim() === "") || (isHeaded && at === first)) return;
    const read = readLine(line, columns);
    if (typeof read === "string") faults.push({ line: at + 1, message: read });
    else places.set(`${read.kind}\n${read.name}`, read);
  });
  if (places.size > 0) {
    await keepGiven(db, who, origin, [...places.values()], info.timeZone);
    const what = [...places.values()].every(({ kind }) => kind === "listing") ? "listing" : "place";
    const how = origin === "file" ? "read from a file" : "pasted";
    await noteChange(db, `${plural(places.size, what)} ${how}`, "", "targets");
  }
  return ok({ taken: places.size, leftAlone, faults: faults.slice(0, MOST_FAULTS) });
}

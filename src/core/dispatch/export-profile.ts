import { z } from "zod";
import type { Account } from "../account/account";
import { recordName } from "../account/names";
import type { NotCarried } from "./carries";
import { STRUCTURE_HEADINGS, structureRows } from "./export";

/** Columns of the structure's file that hold money, in currency units. */
const MONEY_COLUMNS = new Set(["daily_budget", "ad_group_bid", "bid"]);
/** Columns that hold other numbers. */
const NUMBER_COLUMNS = new Set(["goal_return", "serve_order"]);

/** How a structure is written out for a place that wants it in a form of its own. */
export const exportProfileSchema = z
  .object({
    key: z.string().regex(/^[a-z0-9-]{1,40}$/, "letters a to z, digits and hyphens"),
    name: z.string().trim().min(1).max(80),
    /** Columns in their order, each with the heading it gets. */
    columns: z
      .array(
        z.object({
          column: z.enum(STRUCTURE_HEADINGS as [string, ...string[]]),
          heading: z.string().trim().min(1).max(100),
        }),
      )
      .min(1)
      .max(60),
    format: z.enum(["csv", "tsv", "xlsx", "json"]),
    /** What parts cells in CSV. */
    delimiter: z.enum([",", ";"]),
    /** The decimal mark of money and numbers; workbooks and JSON hold numbers as such. */
    decimal: z.enum([".", ","]),
    /** Money in currency units, `12.50`; in cents, `1250`; or with the currency behind it, `12.50 EUR`. */
    money: z.enum(["units", "cents", "currency"]),
    /** Everything, or only lines that differ from what the channel has. */
    what: z.enum(["everything", "differences"]),
  })
  .refine(({ columns }) => new Set(columns.map(({ heading }) => heading.toLowerCase())).size === columns.length, {
    message: "Two columns have the same heading.",
    path: ["columns"],
  });
export type ExportProfile = z.output<typeof exportProfileSchema>;

/** The profile that writes a structure as it is read back without one. */
export const PLAIN_PROFILE: ExportProfile = {
  ...{ key: "plain", name: "As it is", format: "csv", delimiter: ",", decimal: ".", money: "units" },
  columns: STRUCTURE_HEADINGS.map((column) => ({ column, heading: column })),
  what: "everything",
};

type Cell = string | number | null;

/** Money and numbers stay numbers in forms that know them. */
function keepsNumbers({ format, money }: ExportProfile): boolean {
  return (format === "xlsx" || format === "json") && money !== "currency";
}

function writeMoney(text: string, profile: ExportProfile, currency: string): Cell {
  const amount = Number(text);
  if (profile.money === "cents") {
    const cents = Math.round(amount * 1000) / 10;
    return keepsNumbers(profile) ? cents : String(cents).replace(".", profile.decimal);
  }
  if (keepsNumbers(profile)) return amount;
  const written = text.replace(".", profile.decimal);
  return profile.money === "currency" ? `${written} ${currency}` : written;
}

function writeCell(column: string, cell: Cell, profile: ExportProfile, currency: string): Cell {
  if (cell === null || cell === "") return cell;
  if (MONEY_COLUMNS.has(column)) return writeMoney(String(cell), profile, currency);
  if (!NUMBER_COLUMNS.has(column)) return cell;
  return keepsNumbers(profile) ? Number(cell) : String(cell).replace(".", profile.decimal);
}

/**
 * A structure as a profile writes it.
 * @param sent the account as the channel has it, which differences are told against
 */
export function profileRows(
  account: Account,
  sent: Account,
  profile: ExportProfile,
  currency: string,
): { headings: string[]; rows: Cell[][] } {
  const before = new Map(
    profile.what === "everything" ? [] : structureRows(sent).map((row) => [row.at(-1), JSON.stringify(row)]),
  );
  const places = profile.columns.map(({ column }) => STRUCTURE_HEADINGS.indexOf(column));
  const rows = structureRows(account)
    .filter((row) => profile.what === "everything" || before.get(row.at(-1)!) !== JSON.stringify(row))
    .map((row) => places.map((at) => writeCell(STRUCTURE_HEADINGS[at]!, row[at]!, profile, currency)));
  return { headings: profile.columns.map(({ heading }) => heading), rows };
}

/** Lines of a structure with a value in a column that a profile does not write: what of it would not arrive. */
export function profileLoses(account: Account, sent: Account, profile: ExportProfile): NotCarried[] {
  const written = new Set(profile.columns.map(({ column }) => column));
  const lost = STRUCTURE_HEADINGS.flatMap((column, at) => (written.has(column) ? [] : [{ column, at }]));
  const before = new Map(
    profile.what === "everything" ? [] : structureRows(sent).map((row) => [row.at(-1), JSON.stringify(row)]),
  );
  return structureRows(account).flatMap((row): NotCarried[] => {
    const key = String(row.at(-1));
    if (profile.what !== "everything" && before.get(key) === JSON.stringify(row)) return [];
    const record = account.get(key);
    const columns = lost.filter(({ at }) => row[at] !== null && row[at] !== "").map(({ column }) => column);
    if (!record || columns.length === 0) return [];
    const why = `has no column for: ${columns.join(", ").replaceAll("_", " ")}`;
    return [{ key, name: recordName(account, record), why, isWhole: false, isLimit: false }];
  });
}

/**
 * A file that was written by a profile, as it would be without one, to be read back; null where its headings are not
 * those of the profile. What was left out of the profile stays left out.
 */
export function withoutProfile(
  headings: string[],
  rows: string[][],
  profile: ExportProfile,
): { headings: string[]; rows: string[][] } | null {
  const named = new Map(profile.columns.map(({ column, heading }) => [heading.toLowerCase(), column]));
  const columns = headings.map((heading) => named.get(heading.trim().toLowerCase()));
  if (columns.some((column) => column === undefined)) return null;
  const plain = (column: string, cell: string) => {
    if (cell.trim() === "") return cell;
    if (MONEY_COLUMNS.has(column)) return readMoney(cell, profile);
    return NUMBER_COLUMNS.has(column) ? cell.replace(profile.decimal, ".") : cell;
  };
  return {
    headings: columns as string[],
    rows: rows.map((row) => row.map((cell, at) => (columns[at] ? plain(columns[at], cell) : cell))),
  };
}

/** An amount as the structure's file has it: `12.50`, with a third digit where there is one. What can't be read stays as it is. */
function readMoney(cell: string, { money, decimal }: ExportProfile): string {
  const bare = cell
    .trim()
    .replace(/\s*[A-Z]{3}$/, "")
    .replace(decimal, ".");
  const amount = Number(bare);
  if (!Number.isFinite(amount)) return cell;
  const mills = Math.round(amount * (money === "cents" ? 10 : 1000));
  return mills % 10 === 0 ? (mills / 1000).toFixed(2) : (mills / 1000).toFixed(3);
}

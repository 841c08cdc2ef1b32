import type { Account } from "../account/account";
import { Draft } from "../account/draft";
import { CHANNEL_LIMITS } from "../channel/limits";
import type { LineList } from "../assets/ad-line";
import { linesFromText } from "../account/records/ad-lines";
import { type AccountRecord } from "../account/records";
import { assetsSchema } from "../account/records/assets";
import type { Campaign } from "../account/records/campaign";
import { COUNTRIES } from "../kit/countries";
import { daySchema } from "../kit/day-schema";
import { parseMoneyBy } from "../kit/money";
import { structureRows, STRUCTURE_HEADINGS } from "./export";

/** Something in a line that was not followed; the rest of the file was. */
export interface ReadBackFault {
  /** Line of the file, the headings being the first. */
  line: number;
  message: string;
}

export interface ReadBack {
  draft: Draft;
  faults: ReadBackFault[];
  /** Lines whose record is as it was. */
  same: number;
}

/** Columns of the structure's file that can be changed, by the type of record whose line they stand in. */
const EDITABLE: Partial<
  Record<
    AccountRecord["type"],
    Record<string, (record: AccountRecord, cell: string, isField: (name: string) => boolean) => Edited>
  >
> = {
  campaign: {
    campaign: named,
    campaign_status: status,
    daily_budget: (record, cell) => amount(record, "dailyBudget", cell),
    country: (record, cell) => {
      const { country: _, ...others } = record as Campaign;
      if (cell === "") return others;
      return COUNTRIES.includes(cell) ? { ...others, country: cell } : `“${cell}” is no country's code such as DE.`;
    },
    first_day: (record, cell) => day(record, "startsOn", cell),
    last_day: (record, cell) => day(record, "endsOn", cell),
    folder: (record, cell) => {
      if (cell.length > 60) return "A folder's name has 60 characters at most.";
      const { folder: _, ...others } = record as Campaign;
      return cell === "" ? others : { ...others, folder: cell };
    },
    serve_order: (record, cell) => {
      const order = Number(cell);
      return Number.isInteger(order) && order >= 1 && order <= 9
        ? { ...record, serveOrder: order }
        : `“${cell}” is no serve order from 1 to 9.`;
    },
  },
  adGroup: {
    ad_group: named,
    ad_group_status: status,
    ad_group_bid: (record, cell) => amount(record, "bid", cell),
  },
  productGroup: {
    product_group_status: (record, cell) =>
      cell === "on" || cell === "closed" ? { ...record, status: cell } : `“${cell}” is neither on nor closed.`,
    bid: bidOrNone,
  },
  assets: {
    headlines: (record, cell, isField) => lines(record, "headlines", cell, isField),
    descriptions: (record, cell, isField) => lines(record, "descriptions", cell, isField),
    own_brand: (record, cell) =>
      cell === "yes" || cell === "no" ? { ...record, ownBrand: cell === "yes" } : `“${cell}” is neither yes nor no.`,
  },
  keyword: { product_group_status: status, bid: bidOrNone },
  listingTarget: { product_group_status: status, bid: bidOrNone },
  reach: { product_group_status: status, bid: bidOrNone },
  pool: { daily_budget: (record, cell) => amount(record, "dailyBudget", cell) },
  dayCap: { daily_budget: (record, cell) => amount(record, "dailyBudget", cell) },
};

/** A changed record, or why it can't be. */
type Edited = AccountRecord | object | string;

function named(record: AccountRecord, cell: string): Edited {
  if (cell === "") return "A name can't be empty.";
  const { nameLength } = CHANNEL_LIMITS;
  return cell.length > nameLength ? `The name is longer than ${nameLength} characters.` : { ...record, name: cell };
}

function status(record: AccountRecord, cell: string): Edited {
  return cell === "on" || cell === "paused" ? { ...record, status: cell } : `“${cell}” is neither on nor paused.`;
}

function amount(record: AccountRecord, field: "bid" | "dailyBudget", cell: string): Edited {
  if (/^['=+@]/.test(cell)) return `“${cell}” is a formula or a text, no amount.`;
  const parsed = parseMoneyBy(cell, ".");
  return parsed.ok ? { ...record, [field]: parsed.mills } : `“${cell}” is no amount.`;
}

function day(record: AccountRecord, field: "startsOn" | "endsOn", cell: string): Edited {
  if (cell === "") return { ...record, [field]: null };
  return daySchema.safeParse(cell).success ? { ...record, [field]: cell } : `“${cell}” is no day such as 2026-12-31.`;
}

function lines(record: AccountRecord, list: LineList, cell: string, isField: (name: string) => boolean): Edited {
  const read = linesFromText(cell);
  if (typeof read === "string") return read;
  const unknown = read.flat().find((part) => part.kind === "field" && !isField(part.field));
  if (unknown?.kind === "field") return `The catalogue has no field “${unknown.field}”.`;
  const checked = assetsSchema.safeParse({ ...record, [list]: read });
  return checked.success ? checked.data : "There are too many lines, or one is too long to be kept.";
}

function bidOrNone(record: AccountRecord, cell: string): Edited {
  return cell === "" ? { ...record, bid: null } : amount(record, "bid", cell);
}

/** A cell as it was written out, without the apostrophe that keeps a spreadsheet from running it. */
function plain(cell: string): string {
  return cell.trim().replace(/^'(?=[=+\-@\t\r])/, "");
}

/**
 * Reads a structure's file back: what differs from the account in columns that can be changed becomes changes of records. Lines are
 * known by the key in their last column; their order, and columns that are left out, do not matter. Nothing is made or removed.
 * @param headings the file's first line
 * @param isField whether the catalogue has a field, for those that ad lines name
 */
export function readBack(
  account: Account,
  headings: string[],
  rows: string[][],
  isField: (name: string) => boolean = () => true,
): ReadBack {
  const draft = new Draft(account);
  const faults: ReadBackFault[] = [];
  const columns = headings.map((heading) => heading.trim().toLowerCase());
  const keyAt = columns.indexOf("key");
  if (keyAt < 0) {
    return {
      draft,
      faults: [{ line: 1, message: "There is no column “key”: without it lines can't be told apart." }],
      same: 0,
    };
  }
  const unknown = columns.filter((name) => name !== "" && !STRUCTURE_HEADINGS.includes(name));
  if (unknown.length > 0) faults.push({ line: 1, message: `Not known, so left alone: ${unknown.join(", ")}.` });
  const before = cellsByKey(account);
  const lineOf = new Map<string, number>();
  let same = 0;
  rows.forEach((row, i) => {
    const line = i + 2;
    if (row.every((cell) => cell.trim() === "")) return;
    const key = plain(row[keyAt] ?? "");
    const record = account.get(key);
    const old = before.get(key);
    if (!record || !old) {
      faults.push({ line, message: key === "" ? "The key is missing." : `There is no record with the key “${key}”.` });
      return;
    }
    const first = lineOf.get(key);
    if (first !== undefined) {
      faults.push({ line, message: `The same key stands in line ${first} already; the first counts.` });
      return;
    }
    lineOf.set(key, line);
    let changed: AccountRecord = record;
    columns.forEach((name, at) => {
      const cell = plain(row[at] ?? "");
      const was = old.get(name) ?? "";
      if (at === keyAt || row[at] === undefined || cell === was || !STRUCTURE_HEADINGS.includes(name)) return;
      // An amount that is written another way is the same amount.
      const edit = EDITABLE[record.type]?.[name];
      if (!edit) {
        faults.push({ line, message: `“${name}” can't be changed in this line; it stays “${was}”.` });
        return;
      }
      const edited = edit(changed, cell, isField);
      if (typeof edited === "string") faults.push({ line, message: `${name}: ${edited}` });
      else changed = edited as AccountRecord;
    });
    if (changed === record) same++;
    else draft.put(changed);
  });
  return { draft, faults, same };
}

/** What each record's line says, by key and column, as the file writes it. */
function cellsByKey(account: Account): Map<string, Map<string, string>> {
  const lines = new Map<string, Map<string, string>>();
  for (const row of structureRows(account)) {
    const cells = row.map((cell) => (cell === null ? "" : String(cell).trim()));
    lines.set(cells.at(-1)!, new Map(STRUCTURE_HEADINGS.map((name, at) => [name, cells[at]!])));
  }
  return lines;
}

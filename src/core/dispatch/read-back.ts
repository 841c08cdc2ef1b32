import type { Account } from "../account/account";
import { Draft } from "../account/draft";
import type { ExportColumn } from "../account/record-kind";
import { kindOf, type AccountRecord } from "../account/records";
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
      const reader = kindOf(record.type).reads?.[name as ExportColumn];
      if (!reader) {
        faults.push({ line, message: `“${name}” can't be changed in this line; it stays “${was}”.` });
        return;
      }
      const edited = reader(changed, cell, isField);
      if (typeof edited === "string") faults.push({ line, message: `${name}: ${edited}` });
      else changed = edited;
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

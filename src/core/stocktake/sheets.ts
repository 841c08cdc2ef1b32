import { toUnits } from "../kit/money";
import { CHAPTERS } from "./chapters";
import { FAULTS } from "./finding";
import { mendText } from "./html";
import { phraseText, type Spelling } from "./phrase";
import { openFindings, type Report } from "./report";
import { cellText, type Cell, type Column, type Table } from "./table";

/** A sheet of a workbook: headings, then rows. */
export interface Sheet {
  name: string;
  headings: string[];
  rows: (string | number | null)[][];
}

/** How amounts go into a sheet: as numbers, in units of the currency or on the scale of masked reports. */
export type Amount = (mills: number) => number;

export const inUnits: Amount = (mills) => toUnits(mills);

/** The findings and the tables of all chapters. Shares are parts of one, gaps too. */
export function reportSheets(report: Report, spelling: Spelling, amount: Amount): Sheet[] {
  const findings: Sheet = {
    name: "Findings",
    headings: ["Fault", "What was found", "A month", "Low", "High", "What it is", "Clicks", "Orders", "What to do"],
    rows: openFindings(report).map((finding) => [
      ...[FAULTS[finding.fault], phraseText(finding.says, spelling)],
      ...(["mean", "low", "high"] as const).map((of) => (finding.month ? amount(finding.month[of]) : null)),
      ...[finding.month ? finding.money : null, finding.stands?.clicks ?? null, finding.stands?.orders ?? null],
      mendText(finding),
    ]),
  };
  const chapters = report.chapters.flatMap(({ key, table }): Sheet[] =>
    table ? [sheetOf(CHAPTERS[key].title, table, spelling, amount)] : [],
  );
  return [findings, ...chapters];
}

function sheetOf(name: string, { columns, rows, rest, total }: Table, spelling: Spelling, amount: Amount): Sheet {
  const cells = (line: readonly Cell[], first?: string) =>
    line.flatMap((cell, at) => (at === 0 && first ? [first] : plainCell(cell, columns[at]!, spelling, amount)));
  return {
    name,
    headings: columns.flatMap(({ label, of, kind }) =>
      kind === "sure" ? [`${label}, low`, `${label}, high`] : [of ? `${label}, of ${of}` : label],
    ),
    rows: [
      ...rows.map((row) => cells(row)),
      ...(rest ? [cells(rest.cells, `${rest.count} more`)] : []),
      ...(total ? [cells(total, "Everything")] : []),
    ],
  };
}

function plainCell(cell: Cell, column: Column, spelling: Spelling, amount: Amount): (string | number | null)[] {
  if (column.kind === "sure") {
    return cell !== null && typeof cell === "object" && "low" in cell ? [cell.low, cell.high] : [null, null];
  }
  if (cell === null) return [null];
  if (typeof cell === "number") return [column.kind === "money" ? amount(cell) : cell];
  return [cellText(cell, column, spelling)];
}

import { formatCount, formatShare, formatGap, NO_VALUE } from "../kit/format";
import { phraseText, type Phrase, type Ref, type Spelling } from "./phrase";

/** How the cells of a column are read. `gap` is in parts of one, `sure` an interval of returns. */
export type ColumnKind = "name" | "count" | "money" | "share" | "gap" | "ratio" | "sure" | "words";

export interface Column {
  label: string;
  kind: ColumnKind;
  /** Of a share: what it is a share of. */
  of?: string;
}

/** Between which returns the true one lies with a chance of 80 %. */
export interface Sure {
  low: number;
  mean: number;
  high: number;
}

/** A name with words behind it, such as the day on which something ended. */
export interface Named {
  ref: Ref;
  more?: string;
}

/** Null is not known or nothing to say. */
export type Cell = number | null | Sure | Named | { says: Phrase };

/** A table of a chapter, the same for the page, for print and for files. */
export interface Table {
  columns: Column[];
  rows: Cell[][];
  /** The rows that are not shown, summed, with how many they are. */
  rest: { count: number; cells: Cell[] } | null;
  total: Cell[] | null;
}

const isNamed = (cell: Cell): cell is Named => cell !== null && typeof cell === "object" && "ref" in cell;

/** A cell as text. */
export function cellText(cell: Cell, { kind }: Pick<Column, "kind">, spelling: Spelling): string {
  if (cell === null) return NO_VALUE;
  if (isNamed(cell)) return `${spelling.name(cell.ref)}${cell.more ? ` ${cell.more}` : ""}`;
  if (typeof cell === "object") {
    if ("says" in cell) return phraseText(cell.says, spelling);
    return `${cell.low.toFixed(2)} to ${cell.high.toFixed(2)}`;
  }
  if (kind === "money") return spelling.money(cell);
  if (kind === "share") return formatShare(cell);
  if (kind === "gap") return formatGap(cell);
  if (kind === "ratio") return cell.toFixed(2);
  return formatCount(cell);
}

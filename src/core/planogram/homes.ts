import { asText, postings, type Columns, type Postings, type TextColumn } from "../kit/columns";
import {
  recordsOf,
  shelfColumn,
  SOLD_OUT,
  type AdGroup,
  type Campaign,
  type CampaignKind,
  type ProductGroup,
  type Structure,
} from "./structure";

/** One group that serves items: a unit, rest or open remainder, and the catalogue rows it holds. */
export interface ServingGroup {
  campaign: Campaign;
  adGroup: AdGroup;
  group: ProductGroup;
  /** Mills a click. */
  bid: number;
  rows: Uint32Array;
  /** An open remainder: it bids on whatever its split does not name. */
  leak: boolean;
}

/** Gives text columns and their postings by field, worked out once each. */
export class ColumnReader {
  private readonly texts = new Map<string, TextColumn | null>();
  private readonly posted = new Map<string, Postings>();
  private readonly codes = new Map<string, Map<string, number>>();

  constructor(readonly catalogue: Columns) {}

  /** The field as texts, or null when the catalogue has no such column. */
  text(field: string): TextColumn | null {
    let found = this.texts.get(field);
    if (found === undefined) {
      const column = this.catalogue.columns[field];
      found = column ? asText(column) : null;
      this.texts.set(field, found);
    }
    return found;
  }

  postings(field: string): Postings | null {
    const column = this.text(field);
    if (!column) return null;
    let found = this.posted.get(field);
    if (!found) {
      found = postings(column);
      this.posted.set(field, found);
    }
    return found;
  }

  /** The code of a value in a field, or -1. */
  code(field: string, value: string): number {
    let index = this.codes.get(field);
    if (!index) {
      index = new Map((this.text(field)?.values ?? []).map((text, code) => [text, code]));
      this.codes.set(field, index);
    }
    return index.get(value) ?? -1;
  }
}

const NO_ROWS = new Uint32Array(0);

/** The columns of a catalogue with the channel's shelf labels added, one text column a shelf set. */
export function withLabels(catalogue: Columns, structure: Structure): Columns {
  const labels = recordsOf(structure, "labels");
  if (labels.length === 0) return catalogue;
  const itemNos = catalogue.columns["itemNo"];
  if (itemNos?.kind !== "number") return catalogue;
  const rowOf = new Map<number, number>();
  itemNos.values.forEach((no, row) => rowOf.set(no, row));
  const columns = { ...catalogue.columns };
  for (const label of labels) {
    const name = shelfColumn(label.shelfSet);
    let column = columns[name];
    if (column === undefined || column === catalogue.columns[name]) {
      column = { kind: "text", codes: new Uint32Array(catalogue.length), values: [""] };
      columns[name] = column;
    }
    if (column.kind !== "text") continue;
    const code = column.values.push(label.shelf) - 1;
    for (const item of label.items) {
      const row = rowOf.get(item);
      if (row !== undefined) column.codes[row] = code;
    }
  }
  return { length: catalogue.length, columns };
}

/** Which rows of the catalogue an item-wise exclusion keeps out: everywhere, and by campaign. */
export function excludedRows(structure: Structure, reader: ColumnReader): (campaign: string, row: number) => boolean {
  const everywhere = new Set<number>();
  const inCampaign = new Map<string, Set<number>>();
  const ids = reader.postings("id");
  for (const exclusion of recordsOf(structure, "exclusion")) {
    const code = reader.code("id", exclusion.item);
    if (code < 0 || !ids) continue;
    const row = ids.rows[ids.offsets[code] as number] as number;
    if (exclusion.campaign === null) everywhere.add(row);
    else {
      const rows = inCampaign.get(exclusion.campaign) ?? new Set<number>();
      inCampaign.set(exclusion.campaign, rows.add(row));
    }
  }
  return (campaign, row) => everywhere.has(row) || (inCampaign.get(campaign)?.has(row) ?? false);
}

/**
 * Places the catalogue's rows into the groups that serve them, by walking every product-group tree. Paused campaigns
 * and ad groups, closed groups and excluded items serve nothing.
 * @param catalogue columns with every field that a split names, and `availability`; a field that is missing leaves its items in the remainder
 */
export function servingGroups(structure: Structure, catalogue: Columns): ServingGroup[] {
  const reader = new ColumnReader(withLabels(catalogue, structure));
  const isExcluded = excludedRows(structure, reader);
  const hasExclusions = recordsOf(structure, "exclusion").length > 0;
  const availability = reader.text("availability");
  const soldOut = reader.code("availability", SOLD_OUT);
  const isSoldOut = (row: number) => soldOut >= 0 && availability?.codes[row] === soldOut;
  const children = new Map<string, ProductGroup[]>();
  const roots = new Map<string, ProductGroup>();
  for (const group of recordsOf(structure, "productGroup")) {
    if (group.parent === null) roots.set(group.adGroup, group);
    else {
      const siblings = children.get(group.parent);
      if (siblings) siblings.push(group);
      else children.set(group.parent, [group]);
    }
  }
  const found: ServingGroup[] = [];
  let allRows: Uint32Array | null = null;
  const everyRow = () => (allRows ??= Uint32Array.from({ length: catalogue.length }, (_, row) => row));

  for (const adGroup of recordsOf(structure, "adGroup")) {
    const campaign = structure[adGroup.campaign];
    const root = roots.get(adGroup.key);
    if (campaign?.type !== "campaign" || !root) continue;
    if (campaign.status !== "on" || adGroup.status !== "on") continue;
    const serve = (group: ProductGroup, rows: Uint32Array) => {
      if (group.status === "closed") return;
      const isKept = (row: number) => !isExcluded(campaign.key, row) && !(campaign.inStockOnly && isSoldOut(row));
      const kept = (hasExclusions || campaign.inStockOnly) && !rows.every(isKept) ? rows.filter(isKept) : rows;
      const leak = group.role === "remainder" || (group.role === "unit" && group.parent === null);
      found.push({ campaign, adGroup, group, bid: group.bid ?? adGroup.bid, rows: kept, leak });
    };
    /**
     * `rows` null means the whole catalogue. `path` holds the conditions that lead here, or null when the way led
     * through a remainder or rest, which no list of conditions says.
     */
    const walk = (group: ProductGroup, rows: Uint32Array | null, path: PathStep[] | null) => {
      if (group.role !== "split" || group.by === null) return serve(group, rows ?? everyRow());
      if (group.status === "closed") return;
      const below = children.get(group.key) ?? [];
      const column = reader.text(group.by);
      const remainder = below.filter((child) => child.value === null);
      const named = below.filter((child) => child.value !== null);
      if (!column) {
        for (const child of named) walk(child, NO_ROWS, null);
        for (const child of remainder) walk(child, rows ?? everyRow(), null);
        return;
      }
      const by = group.by;
      const codes = named.map((child) => reader.code(by, child.value as string));
      const parts = divide(reader.postings(by)!, column, codes, rows, path);
      named.forEach((child, i) => {
        walk(child, parts[i] as Uint32Array, path && [...path, { column, code: codes[i] as number }]);
      });
      if (remainder.some((child) => child.status === "on")) {
        const taken = new Set(codes);
        const left = (rows ?? everyRow()).filter((row) => !taken.has(column.codes[row] as number));
        for (const child of remainder) walk(child, left, null);
      }
    };
    walk(root, null, []);
  }
  return found;
}

/** A condition on the way to a node: a column and the code it must have. */
interface PathStep {
  column: TextColumn;
  code: number;
}

/**
 * The rows of each named value below a node. Either the node's rows are gone through once, or, when the values hold fewer
 * rows than the node (an ad group for one brand of a large category), each value's own rows are checked against the path.
 */
function divide(
  { rows: posted, offsets }: Postings,
  column: TextColumn,
  codes: number[],
  rows: Uint32Array | null,
  path: PathStep[] | null,
): Uint32Array[] {
  const own = (code: number) => (code < 0 ? NO_ROWS : posted.subarray(offsets[code], offsets[code + 1]));
  if (rows === null) return codes.map(own);
  const size = codes.reduce((sum, code) => sum + own(code).length, 0);
  if (path && size < rows.length) {
    return codes.map((code) => own(code).filter((row) => path.every((step) => step.column.codes[row] === step.code)));
  }
  const at = new Map<number, number>();
  codes.forEach((code, i) => code >= 0 && at.set(code, i));
  const lists: number[][] = codes.map(() => []);
  for (const row of rows) {
    const i = at.get(column.codes[row] as number);
    if (i !== undefined) lists[i]!.push(row);
  }
  return lists.map((list) => Uint32Array.from(list));
}

export interface HomesProof {
  /** Items served by no group, by one, by several. They sum to the catalogue. */
  none: number;
  one: number;
  several: number;
  /** Homes per catalogue row. */
  perRow: Uint16Array;
  /** Groups that bid on what nobody named, with the number of items they reach. */
  leaks: { campaign: string; adGroup: string; group: string; items: number }[];
}

/** Whether a kind of campaign is a home: it serves its items wherever they fit, without targets of its own. */
export function isHomeKind(kind: CampaignKind): boolean {
  return kind === "feed" || kind === "asset";
}

/**
 * Proves how many homes each item has in a structure, and where it leaks. Campaigns that aim at terms or listings serve
 * beside an item's home and count as none.
 */
export function proveHomes(serving: ServingGroup[], length: number): HomesProof {
  const perRow = new Uint16Array(length);
  const leaks: HomesProof["leaks"] = [];
  for (const { campaign, adGroup, group, rows, leak } of serving) {
    if (!isHomeKind(campaign.kind)) continue;
    for (const row of rows) perRow[row] = (perRow[row] as number) + 1;
    if (leak) leaks.push({ campaign: campaign.key, adGroup: adGroup.key, group: group.key, items: rows.length });
  }
  let none = 0;
  let one = 0;
  for (const homes of perRow) {
    if (homes === 0) none++;
    else if (homes === 1) one++;
  }
  return { none, one, several: length - none - one, perRow, leaks };
}

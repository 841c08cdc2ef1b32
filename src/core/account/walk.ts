import { asText, postings, type Columns, type Postings, type TextColumn } from "../kit/columns";
import { ownRecord } from "../kit/own-record";
import { type Account } from "./account";
import { isElsewhere } from "./off";
import { isOpen, type ProductGroup } from "./records/product-group";
import { shownAds } from "./ads";
import { areEnough, assetsKey } from "./records/assets";
import type { AdGroup } from "./records/ad-group";
import type { Campaign } from "./records/campaign";
import type { Exclusion } from "./records/exclusion";
import { shelfColumn, type Labels } from "./records/labels";

/** The availability that keeps an item out of campaigns that serve items in stock only. */
export const SOLD_OUT = "out of stock";

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
export function withLabels(catalogue: Columns, labels: readonly Labels[]): Columns {
  if (labels.length === 0) return catalogue;
  const itemNos = catalogue.columns["itemNo"];
  if (itemNos?.kind !== "number") return catalogue;
  const rowOf = new Map<number, number>();
  itemNos.values.forEach((no, row) => rowOf.set(no, row));
  const columns = ownRecord({ ...catalogue.columns });
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
export function excludedRows(
  exclusions: readonly Exclusion[],
  reader: ColumnReader,
): (campaign: string, row: number) => boolean {
  const everywhere = new Set<number>();
  const inCampaign = new Map<string, Set<number>>();
  const ids = reader.postings("id");
  for (const exclusion of exclusions) {
    const code = reader.code("id", exclusion.item);
    if (code < 0 || !ids) continue;
    const row = ids.rows[ids.offsets[code]!]!;
    if (exclusion.campaign === null) everywhere.add(row);
    else {
      const rows = inCampaign.get(exclusion.campaign) ?? new Set<number>();
      inCampaign.set(exclusion.campaign, rows.add(row));
    }
  }
  return (campaign, row) => everywhere.has(row) || (inCampaign.get(campaign)?.has(row) ?? false);
}

/** A product group that bids, with the rows its tree leads to it, before exclusions and stock. */
interface Reached {
  group: ProductGroup;
  rows: Uint32Array;
}

/** What was worked out for one ad group, while nothing it hangs on is another object. */
interface Walked {
  campaign: Campaign;
  adGroup: AdGroup;
  exclusions: readonly Exclusion[];
  serving: ServingGroup[];
}

/**
 * Walks accounts over one catalogue. What it found for an ad group is kept as long as its groups, campaign and the
 * exclusions are the same objects, so after a small change only what changed is walked again.
 */
export class Walker {
  private reader: ColumnReader;
  private labels: readonly Labels[] = [];
  private reached = new WeakMap<readonly ProductGroup[], Reached[]>();
  private walked = new WeakMap<readonly ProductGroup[], Walked>();
  private allRows: Uint32Array | null = null;

  /** @param catalogue columns with every field that a split names, `id` and `availability`; a field that is missing leaves its items in the remainder */
  constructor(private readonly catalogue: Columns) {
    this.reader = new ColumnReader(catalogue);
  }

  /** The groups that serve items in an account. Paused campaigns and ad groups, closed groups, asset groups that wait and excluded items serve nothing. */
  walk(account: Account): ServingGroup[] {
    this.readLabels(account);
    const exclusions = account.all("exclusion");
    const isExcluded = excludedRows(exclusions, this.reader);
    const found: ServingGroup[] = [];
    for (const adGroup of account.all("adGroup")) {
      const campaign = account.find("campaign", adGroup.campaign);
      if (!campaign || !isServing(account, campaign, adGroup)) continue;
      const groups = account.productGroups(adGroup.key);
      const known = this.walked.get(groups);
      if (known?.campaign === campaign && known.adGroup === adGroup && known.exclusions === exclusions) {
        for (const serving of known.serving) found.push(serving);
        continue;
      }
      // Who is kept out is the same as before, so only what hangs on the campaign or ad group is told anew.
      if (known && known.exclusions === exclusions && known.campaign.inStockOnly === campaign.inStockOnly) {
        const serving = known.serving.map(({ group, rows, leak }) => ({
          campaign,
          adGroup,
          group,
          bid: group.bid ?? adGroup.bid,
          rows,
          leak,
        }));
        this.walked.set(groups, { campaign, adGroup, exclusions, serving });
        for (const one of serving) found.push(one);
        continue;
      }
      const isKept = this.keeps(campaign, exclusions.length > 0 ? isExcluded : null);
      const serving = this.reachedBy(groups).map(({ group, rows }) => ({
        campaign,
        adGroup,
        group,
        bid: group.bid ?? adGroup.bid,
        rows: isKept ? rowsThat(rows, isKept) : rows,
        leak: isOpen(group),
      }));
      this.walked.set(groups, { campaign, adGroup, exclusions, serving });
      for (const one of serving) found.push(one);
    }
    return found;
  }

  /**
   * What an ad group without product groups of its own would serve, given the rows that a tree to come leads to: one group
   * for all of them, at the ad group's bid.
   */
  serveRows(account: Account, campaign: Campaign, adGroup: AdGroup, rows: Uint32Array): ServingGroup | null {
    if (!isServing(account, campaign, adGroup)) return null;
    this.readLabels(account);
    const exclusions = account.all("exclusion");
    const isKept = this.keeps(campaign, exclusions.length > 0 ? excludedRows(exclusions, this.reader) : null);
    const group: ProductGroup = {
      ...{ type: "productGroup", key: `${adGroup.key}/to-come`, adGroup: adGroup.key, parent: null },
      ...{ role: "unit", value: null, by: null, status: "on", bid: null },
    };
    return { campaign, adGroup, group, bid: adGroup.bid, rows: isKept ? rowsThat(rows, isKept) : rows, leak: false };
  }

  /** The rows an ad group holds, whether or not it serves them now: without excluded and, where its campaign says so, sold-out ones. */
  rowsOf(account: Account, adGroup: AdGroup): Uint32Array {
    this.readLabels(account);
    const campaign = account.find("campaign", adGroup.campaign);
    if (!campaign) return NO_ROWS;
    const exclusions = account.all("exclusion");
    const isExcluded = excludedRows(exclusions, this.reader);
    // A tree leads every row to one group at most, so parts have no row in common.
    const isKept = this.keeps(campaign, exclusions.length > 0 ? isExcluded : null);
    const parts = this.reachedBy(account.productGroups(adGroup.key)).map(({ rows }) =>
      isKept ? rowsThat(rows, isKept) : rows,
    );
    const found = new Uint32Array(parts.reduce((sum, { length }) => sum + length, 0));
    let at = 0;
    for (const part of parts) {
      found.set(part, at);
      at += part.length;
    }
    return found.sort();
  }

  private readLabels(account: Account): void {
    const labels = account.all("labels");
    if (labels === this.labels) return;
    this.labels = labels;
    this.reader = new ColumnReader(withLabels(this.catalogue, labels));
    this.reached = new WeakMap();
    this.walked = new WeakMap();
  }

  /** Whether a campaign lets a row through, by its stock and by what is excluded; null where it lets all through. */
  private keeps(
    { key, inStockOnly }: Campaign,
    isExcluded: ((campaign: string, row: number) => boolean) | null,
  ): ((row: number) => boolean) | null {
    const stock = inStockOnly ? this.reader.text("availability") : null;
    const soldOut = this.reader.code("availability", SOLD_OUT);
    if (!isExcluded && !(stock && soldOut >= 0)) return null;
    return (row) => stock?.codes[row] !== soldOut && !isExcluded?.(key, row);
  }

  private reachedBy(groups: readonly ProductGroup[]): Reached[] {
    let found = this.reached.get(groups);
    if (!found) this.reached.set(groups, (found = this.reach(groups)));
    return found;
  }

  private everyRow(): Uint32Array {
    return (this.allRows ??= Uint32Array.from({ length: this.catalogue.length }, (_, row) => row));
  }

  private reach(groups: readonly ProductGroup[]): Reached[] {
    const { reader } = this;
    const children = new Map<string, ProductGroup[]>();
    let root: ProductGroup | undefined;
    for (const group of groups) {
      if (group.parent === null) root = group;
      else {
        const siblings = children.get(group.parent);
        if (siblings) siblings.push(group);
        else children.set(group.parent, [group]);
      }
    }
    const found: Reached[] = [];
    /**
     * `rows` null means the whole catalogue. `path` holds the conditions that lead here, or null when the way led
     * through a remainder or rest, which no list of conditions says.
     */
    const walk = (group: ProductGroup, rows: Uint32Array | null, path: PathStep[] | null) => {
      if (group.status === "closed") return;
      if (group.role !== "split" || group.by === null) {
        found.push({ group, rows: rows ?? this.everyRow() });
        return;
      }
      const { by } = group;
      const below = children.get(group.key) ?? [];
      const column = reader.text(by);
      const remainder = below.filter((child) => child.value === null);
      const named = below.filter((child) => child.value !== null);
      if (!column) {
        for (const child of named) walk(child, NO_ROWS, null);
        for (const child of remainder) walk(child, rows ?? this.everyRow(), null);
        return;
      }
      const codes = named.map((child) => reader.code(by, child.value as string));
      const parts = divide(reader.postings(by)!, column, codes, rows, path);
      named.forEach((child, i) => {
        walk(child, parts[i]!, child.role === "split" && path ? [...path, { column, code: codes[i]! }] : null);
      });
      if (remainder.some((child) => child.status === "on")) {
        const taken = new Set(codes);
        const left = (rows ?? this.everyRow()).filter((row) => !taken.has(column.codes[row]!));
        for (const child of remainder) walk(child, left, null);
      }
    };
    if (root) walk(root, null, []);
    return found;
  }
}

/** Whether an ad group may show ads at all: switched on like its campaign, and not waiting for what its kind needs. */
function isServing(account: Account, campaign: Campaign, adGroup: AdGroup): boolean {
  if (campaign.status !== "on" || adGroup.status !== "on" || isElsewhere(campaign)) return false;
  // Without its assets the channel has no ad to show.
  if (campaign.kind === "asset") return areEnough(account.find("assets", assetsKey(adGroup.key)));
  return campaign.kind !== "text" || shownAds(account, adGroup.key) !== null;
}

/** The rows that pass: the same list where all do, which is usual and costs nothing to keep. */
function rowsThat(rows: Uint32Array, passes: (row: number) => boolean): Uint32Array {
  let at = 0;
  while (at < rows.length && passes(rows[at]!)) at++;
  if (at === rows.length) return rows;
  const kept = Array.from(rows.subarray(0, at));
  for (at++; at < rows.length; at++) if (passes(rows[at]!)) kept.push(rows[at]!);
  return kept.length === 0 ? NO_ROWS : new Uint32Array(kept);
}

/** The groups that serve the catalogue in an account; see {@link Walker} for walking several alike ones. */
export function servingGroups(account: Account, catalogue: Columns): ServingGroup[] {
  return new Walker(catalogue).walk(account);
}

/** A condition on the way to a node: a column and the code it must have. */
interface PathStep {
  column: TextColumn;
  code: number;
}

/**
 * The rows of each named value below a node. Either the node's rows are gone through once, or, when the values hold no more
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
  if (path && size <= rows.length) {
    return codes.map((code) =>
      rowsThat(own(code), (row) => path.every((step) => step.column.codes[row] === step.code)),
    );
  }
  const at = new Map<number, number>();
  codes.forEach((code, i) => code >= 0 && at.set(code, i));
  const lists: number[][] = codes.map(() => []);
  for (const row of rows) {
    const i = at.get(column.codes[row]!);
    if (i !== undefined) lists[i]!.push(row);
  }
  return lists.map((list) => new Uint32Array(list));
}

import type { z } from "zod";

/** The least that every record has. */
export interface RecordBase {
  type: string;
  key: string;
}

/** A record that another one cannot stand without. */
export interface Parent {
  key: string;
  /** The types it may be of; null for any that has a place below campaigns. */
  types: readonly string[] | null;
  /** `hangs below`: goes with it when it goes. `draws on`: needs it, but outlives it. */
  bond: "hangs below" | "draws on";
}

/** The rest of the account, as far as a kind may ask for it. */
export interface Known {
  get(key: string): RecordBase | undefined;
  /** How a record is called with where it stands; null for one that is not there. */
  nameOf(key: string): string | null;
  /** What a split's value is called: a shelf by its name, an empty value in words. */
  valueName(by: string, value: string): string;
}

/** How a change is told. */
export interface Telling extends Known {
  /** The record's name with where it stands. */
  name: string;
  /** Mills as money. */
  money(mills: number): string;
}

/** Switches something on or off. */
export interface Switch {
  status: "on" | "off";
  /** Why it is off, and when to look again. */
  pausedFor?: string | undefined;
  reviewOn?: string | null | undefined;
}

/** Columns of the structure's file that a record fills by itself; those of its campaign and ad group are added. */
export type ExportColumn =
  | ("campaign" | "purpose" | "campaign_status" | "daily_budget" | "bidding" | "goal_return" | "serve_order")
  | ("ad_group" | "ad_group_status" | "ad_group_bid")
  | ("product_group" | "role" | "product_group_status" | "bid")
  | ("kind" | "auction_flex" | "slot_factors" | "country" | "first_day" | "last_day" | "folder")
  | ("headlines" | "descriptions" | "pictures" | "logo" | "own_brand" | "address" | "link");
export type ExportCells = Partial<Record<ExportColumn, string | number | null>>;

/**
 * Reads a changed cell of the structure's file. @param isField whether the catalogue has a field
 * @returns the record as the cell says, or why it can't be, in a sentence
 */
export type CellReader<T> = (record: T, cell: string, isField: (name: string) => boolean) => T | string;

/** What is known of one field of a kind of record. */
export interface RecordField {
  /** How it is called in a sentence. */
  label: string;
  /** Whether it is an amount of money, mills. */
  money?: true;
  /** Whether people set it by hand on what a planogram made: a new plan leaves it alone where it is not known what the last had. */
  byHand?: true;
  /** Whether it decides who is served and where, or what is spent; left out for what only reads otherwise. */
  decides?: "serving" | "spending";
  /** Whether past results do not tell what another value of it would bring. */
  untold?: true;
}

/** Every field of a record but its type and key; one that is left out does not compile. */
export type FieldsOf<T extends RecordBase> = Record<Exclude<keyof T, "type" | "key"> & string, RecordField>;

/**
 * All that Hot Shelf knows of one kind of record. Rooms ask here instead of telling kinds apart themselves, so a new kind
 * is one file in `records/` and one line in its index.
 */
export interface RecordKind<T extends RecordBase> {
  schema: z.ZodType<T>;
  /** How it is called in a sentence. */
  label: readonly [one: string, many: string];
  /** Its place in lists of changes and in files; lower comes first. */
  place: number;
  /** What it hangs below or draws on. */
  parents(record: T): Parent[];
  /** What is known of each of its fields. */
  fields: FieldsOf<T>;
  name(record: T, known: Known): string;
  /** Whether it only holds others together, so that making and removing it goes without saying. */
  isScaffold?(record: T): boolean;
  added?(record: T, telling: Telling): string;
  removed?(record: T, telling: Telling): string;
  /** Words for a changed field where "field before → after" would not do; null says nothing. */
  changed?: { [F in keyof T]?: (before: T[F], after: T[F], telling: Telling) => string | null };
  cells(record: T, known: Known): ExportCells;
  /** Of its cells those that a file which comes back may have changed, with how each is read; see `read-cells.ts`. */
  reads?: Partial<Record<ExportColumn, CellReader<T>>>;
  /** Whether a change of it decides who is served or what is spent, and so stands before all others. */
  isGrave?(before: T, after: T): boolean;
  /** Mills a click where it has a bid of its own; kinds without this never bid. */
  bid?(record: T): number | null;
  /** Whether this record of a kind that bids has nothing to bid on. */
  bidsNothing?(record: T): boolean;
  /** Mills a day that may be spent; kinds without this limit nothing. */
  budget?(record: T): number;
  /** The record switched on, or off with its reason where its kind keeps one; kinds without this always run. */
  switched?(record: T, to: Switch): T;
  /** Whether people give it a name of its own. */
  isNamed?: boolean;
  /** Kinds of campaign that it does something in; left out for all. */
  fits?: readonly string[];
}

/** Checks a kind's description where it is written down. */
export function defineKind<T extends RecordBase>(kind: RecordKind<T>): RecordKind<T> {
  return kind;
}

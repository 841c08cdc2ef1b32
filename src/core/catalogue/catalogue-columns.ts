import { NumberColumnBuilder, TextColumnBuilder, type Column, type Columns } from "../kit/columns";
import { CATEGORY_LEVELS, categoryColumn, categoryLevels, unpartedSign } from "../kit/categories";
import { FIELDS } from "./fields";
import { mappedColumns, type Mapping } from "./mapping";
import type { ReadItem } from "./read-row";
import { SINK_FROM_ROWS, type SunkTexts, type TextSink } from "./text-sink";

const TEXT_FIELDS = [
  "id",
  "title",
  "brand",
  "category",
  "availability",
  "family",
  "link",
  "image",
  "gtin",
  "color",
  "size",
  "description",
] as const;
/** Texts that are an item's own: unique by rule (the ID) or hardly ever repeated, and never split by. */
export const OWN_TEXTS = new Set<string>(["id", "title", "link", "image", "gtin", "description"]);
const NUMBER_FIELDS = ["price", "salePrice", "cost", "fee", "stock", "tax", "warnings"] as const;

/** The column that holds the hash of each item's raw cells, by which a refresh tells what changed. */
export const ROW_HASH = "rowHash";

/** Prefix of the keys of feed columns that no field uses; they stay usable in every rule and split. */
export const EXTRA_PREFIX = "feed:";

/** Prefix of the feed's own value of a field that a derived field stands in for. */
export const OWN_PREFIX = "own:";

const MADE_LABELS: Record<string, string> = {
  id: "Single items",
  category: "Category, whole path",
  heat: "Heat",
  home: "Home",
  note: "Note",
  unitCost: "Item cost",
  unitFee: "Fee",
  margin: "Margin",
  breakEven: "Break-even return",
};

/** How a column of the catalogue is called on screens. Derived fields go by the names that people gave them. */
export function columnLabel(name: string, derived: ReadonlyMap<string, string> = new Map()): string {
  if (name.startsWith(EXTRA_PREFIX)) return name.slice(EXTRA_PREFIX.length);
  if (name.startsWith(OWN_PREFIX)) return `${columnLabel(name.slice(OWN_PREFIX.length))}, as in the feed`;
  for (let level = 1; level <= CATEGORY_LEVELS; level++) {
    if (name === categoryColumn(level)) return `Category, level ${level}`;
  }
  return derived.get(name) ?? MADE_LABELS[name] ?? FIELDS.find((field) => field.key === name)?.label ?? name;
}

/** Collects read items into the catalogue's columns, one row an item, in feed order. */
export class CatalogueColumnsBuilder {
  private readonly texts = new Map<string, TextColumnBuilder>();
  private readonly numbers = new Map<string, NumberColumnBuilder>();
  private readonly levelsOf = new Map<string, string[]>();
  private readonly extras: { at: number; builder: TextColumnBuilder }[] = [];
  private readonly mapped: Set<string>;
  // The same builders in the order of the fields, so that no row looks them up by name.
  private readonly textFields: [(typeof TEXT_FIELDS)[number], { push(text: string): void }][];
  private readonly numberFields: [(typeof NUMBER_FIELDS)[number], NumberColumnBuilder][];
  private readonly levels: TextColumnBuilder[];
  private extrasKnown = 0;
  /** Sinks of the texts of their own, once there are too many rows to keep them here. */
  private sinks: Map<string, TextSink> | null = null;
  length = 0;

  /**
   * @param headings may grow while rows are added
   * @param makeSink where texts of their own go in a large catalogue; left out keeps them in memory
   */
  constructor(
    private readonly headings: string[],
    private readonly mapping: Mapping,
    private readonly makeSink: ((name: string) => TextSink) | null = null,
    private readonly sinkFrom = SINK_FROM_ROWS,
  ) {
    for (const key of TEXT_FIELDS) this.texts.set(key, new TextColumnBuilder(!OWN_TEXTS.has(key)));
    for (let level = 1; level <= CATEGORY_LEVELS; level++)
      this.texts.set(categoryColumn(level), new TextColumnBuilder());
    for (const key of ["itemNo", ROW_HASH, ...NUMBER_FIELDS]) this.numbers.set(key, new NumberColumnBuilder());
    this.textFields = TEXT_FIELDS.map((key) => [key, this.texts.get(key)!]);
    this.numberFields = NUMBER_FIELDS.map((key) => [key, this.numbers.get(key)!]);
    this.levels = Array.from({ length: CATEGORY_LEVELS }, (_, i) => this.texts.get(categoryColumn(i + 1))!);
    this.mapped = new Set(mappedColumns(mapping));
    this.addExtras();
  }

  /** A sign in most categories that was not taken to part levels; see {@link unpartedSign}. */
  get unparted(): ReturnType<typeof unpartedSign> {
    return this.mapping.categorySeparator === null ? unpartedSign(this.levelsOf.keys()) : null;
  }

  /** Adds one item with its number, the hash of its raw cells, and those cells. */
  push(itemNo: number, hash: number, item: ReadItem, cells: string[]): void {
    if (this.extrasKnown < this.headings.length) this.addExtras();
    if (this.makeSink && this.length === this.sinkFrom) this.openSinks();
    for (const [key, builder] of this.textFields) builder.push(item[key]);
    let levels = this.levelsOf.get(item.category);
    if (levels === undefined) {
      levels = categoryLevels(item.category, this.mapping.categorySeparator);
      this.levelsOf.set(item.category, levels);
    }
    for (let level = 0; level < CATEGORY_LEVELS; level++) this.levels[level]!.push(levels[level] ?? "");
    this.numbers.get("itemNo")!.push(itemNo);
    this.numbers.get(ROW_HASH)!.push(hash);
    for (const [key, builder] of this.numberFields) builder.push(item[key] ?? NaN);
    for (const { at, builder } of this.extras) builder.push((cells[at] ?? "").trim());
    this.length++;
  }

  /**
   * Makes the function that adds an item just as it stood in an earlier revision of the same headings and mapping.
   * Texts are carried over code by code, so nothing is parsed or looked up again.
   * @returns null when the earlier revision was stored before one of the columns was known
   */
  copyFrom(earlier: Columns): ((row: number) => void) | null {
    if ([...this.texts.keys(), ...this.numbers.keys()].some((name) => !(name in earlier.columns))) return null;
    const texts = [...this.texts].map(([name, builder]) => {
      const column = earlier.columns[name];
      if (column?.kind !== "text") throw new Error(`the earlier revision has no texts "${name}"`);
      return {
        name,
        builder,
        column,
        codes: new Int32Array(column.values.length).fill(-1),
        isOwn: OWN_TEXTS.has(name),
      };
    });
    const numbers = [...this.numbers].map(([name, builder]) => {
      const column = earlier.columns[name];
      if (column?.kind !== "number") throw new Error(`the earlier revision has no numbers "${name}"`);
      return { builder, values: column.values };
    });
    return (row) => {
      if (this.makeSink && this.length === this.sinkFrom) this.openSinks();
      for (const { name, builder, column, codes, isOwn } of texts) {
        const code = column.codes[row]!;
        if (isOwn) (this.sinks?.get(name) ?? builder).push(column.values[code]!);
        else if (codes[code]! >= 0) builder.pushCode(codes[code]!);
        else codes[code] = builder.push(column.values[code]!);
      }
      for (const { builder, values } of numbers) builder.push(values[row]!);
      this.length++;
    };
  }

  /** XML feeds grow columns on the way; rows before a column's first appearance have no value in it. */
  private addExtras(): void {
    for (; this.extrasKnown < this.headings.length; this.extrasKnown++) {
      const heading = this.headings[this.extrasKnown]!;
      if (this.mapped.has(heading)) continue;
      const builder = new TextColumnBuilder();
      for (let row = 0; row < this.length; row++) builder.push("");
      this.texts.set(EXTRA_PREFIX + heading, builder);
      this.extras.push({ at: this.extrasKnown, builder });
    }
  }

  /** Moves the texts of their own out of the memory; those that come go there at once. */
  private openSinks(): void {
    this.sinks = new Map();
    for (const [i, [key]] of this.textFields.entries()) {
      const builder = this.texts.get(key);
      if (!builder || !OWN_TEXTS.has(key)) continue;
      const sink = this.makeSink!(key);
      const { codes, values } = builder.finish();
      for (const code of codes) sink.push(values[code]!);
      this.sinks.set(key, sink);
      this.textFields[i] = [key, sink];
      this.texts.delete(key);
    }
  }

  /**
   * The finished columns. Those of `sunk` are not among the memory's: each look at one reads it anew, so it should be
   * taken once and let go of.
   */
  finish(): Columns & { sunk: Record<string, SunkTexts> } {
    const columns: Record<string, Column> = {};
    for (const [key, builder] of [...this.numbers, ...this.texts]) columns[key] = builder.finish();
    const sunk: Record<string, SunkTexts> = {};
    for (const [key, sink] of this.sinks ?? []) {
      const texts = (sunk[key] = sink.finish());
      Object.defineProperty(columns, key, { get: () => texts.column(), enumerable: true, configurable: true });
    }
    return { length: this.length, columns, sunk };
  }
}

import { isMoneyColumn } from "../catalogue/finish";
import { paidPrices } from "../catalogue/margins";
import { categoryLevels } from "../kit/categories";
import { cellText, type Columns } from "../kit/columns";
import { toUnits } from "../kit/money";
import { asName, sharedWords, wordsOf } from "../kit/shared-words";
import { isSimple, textLength } from "../kit/text-length";
import { stepped } from "../parts/fill";
import type { FieldPart } from "../parts/part";
import type { Step } from "../parts/steps";
import { cleanedValue } from "./clean";
import { brandsOf, stylesOf } from "./group-words";
import type { Language } from "./languages";
import { firstSellable, rowsOf, type Units } from "./units";

/** What lines can say beside the catalogue's fields. Of an ad group of several items it is said of those that can be bought. */
export const COPY_FIELDS = {
  "copy:product": "What the items are called",
  "copy:kind": "Kind of thing",
  "copy:brands": "Brands of the group",
  "copy:styles": "Words that tell its items apart",
  "copy:price": "Price as it is paid",
  "copy:amount-off": "Amount off",
  "copy:share-off": "Share off, %",
  "copy:lowest-price": "Lowest price of the group",
  "copy:largest-off": "Largest amount off among several items",
  "copy:largest-share-off": "Largest share off among several items, %",
  "copy:items": "Number of items in the group",
  "copy:stock": "Stock left in the group",
} as const;
export type CopyField = keyof typeof COPY_FIELDS;

/** Columns that these are worked out from. */
export const COPY_COLUMNS = [
  ...(["title", "brand", "category", "availability", "price", "salePrice", "stock", "id", "link"] as const),
];

const MONEY_FIELDS = new Set<string>(["copy:price", "copy:amount-off", "copy:lowest-price", "copy:largest-off"]);

/** Numbers that go out of date: what is said of them has to be looked at again when they change. */
const CLAIMS = new Set<string>([
  ...["copy:price", "copy:amount-off", "copy:share-off", "copy:lowest-price", "copy:largest-off"],
  ...["copy:largest-share-off", "copy:items", "copy:stock", "price", "salePrice", "stock"],
]);

/** Whether a field says something that changes from day to day. */
export function isClaim(field: string): boolean {
  return CLAIMS.has(field);
}

/** A value as it stands in a line. */
export interface Said {
  text: string;
  /** Characters as the channel counts them. */
  length: number;
  /** Whether lengths add up around it; see `isSimple`. */
  isSimple: boolean;
  /** Its number among those that a part makes, from 0 on. */
  id: number;
}

/** A part of a line made ready: what it says for an ad group, null where it has nothing to say. */
export interface CompiledPart {
  of: (unit: number) => Said | null;
  /** Whether ad groups share its values often enough that what was made of one is worth keeping. */
  repeats: boolean;
}

export interface ValueSettings {
  currency: string;
  language: Language;
  wideCountTwice: boolean;
  /** Whether a column holds money in mills; left out, the catalogue's own. */
  isMoney?: (field: string) => boolean;
}

/**
 * What fields say of ad groups, as it reads in lines. Values are worked out once: by code for texts, by number for numbers.
 * A field of several items says something only where all that can be bought agree.
 */
export class CopyValues {
  private readonly money: Intl.NumberFormat;
  private readonly numbers = new Map<string, Float64Array>();
  /** Amounts as they are written; writing one takes longer than all else that is done with it. */
  private readonly amounts = new Map<string, string>();
  private readonly plain = new Map<string, CompiledPart>();
  private readonly products: (string | undefined)[] = [];

  constructor(
    readonly units: Units,
    private readonly catalogue: Columns,
    readonly settings: ValueSettings,
  ) {
    this.money = new Intl.NumberFormat(settings.language, { style: "currency", currency: settings.currency });
  }

  /** Makes a part of a line ready. */
  compile(part: FieldPart): CompiledPart {
    const { field, steps } = part;
    if (field === "copy:product") return this.ofTexts((unit) => this.product(unit), steps);
    if (field === "copy:kind") return this.ofColumn("category", steps, (path) => categoryLevels(path).at(-1) ?? "");
    if (field === "copy:brands")
      return this.ofTexts((unit) => brandsOf(this.units, unit, this.catalogue.columns["brand"]), steps);
    if (field === "copy:styles") return this.ofTexts((unit) => stylesOf(this.units, unit, this.catalogue), steps);
    if (field in COPY_FIELDS) return this.ofNumbers(this.number(field as CopyField), MONEY_FIELDS.has(field), steps);
    return this.ofColumn(field, steps, cleanedValue);
  }

  /** A field's value as a line says it, "" for none. */
  valueOf(unit: number, field: string): string {
    let part = this.plain.get(field);
    if (!part) this.plain.set(field, (part = this.compile({ kind: "field", field })));
    return part.of(unit)?.text ?? "";
  }

  /** Numbers what a part says. */
  private sayer(): (text: string) => Said | null {
    const { wideCountTwice } = this.settings;
    let id = 0;
    return (text) => {
      if (text === "") return null;
      return { text, length: textLength(text, wideCountTwice), isSimple: isSimple(text), id: id++ };
    };
  }

  /** A number after its steps; money is written with its currency unless a step made a text of it. */
  private numberText(plain: string, isMoney: boolean, steps: readonly Step[] | undefined): string {
    const text = stepped(plain, steps).trim();
    const isPlain = isMoney && text !== "" && Number.isFinite(Number(text));
    if (!isPlain) return text.replace(/\s+/g, " ");
    let found = this.amounts.get(text);
    if (found === undefined) this.amounts.set(text, (found = this.money.format(Number(text)).replace(/\s+/g, " ")));
    return found;
  }

  private ofTexts(textOf: (unit: number) => string, steps: readonly Step[] | undefined): CompiledPart {
    const known = new Map<string, Said | null>();
    const say = this.sayer();
    const of = (unit: number): Said | null => {
      const raw = textOf(unit);
      let found = known.get(raw);
      if (found === undefined) known.set(raw, (found = say(stepped(raw, steps).trim())));
      return found;
    };
    return { of, repeats: false };
  }

  private ofNumbers(numbers: Float64Array, isMoney: boolean, steps: readonly Step[] | undefined): CompiledPart {
    const known = new Map<number, Said | null>();
    const say = this.sayer();
    const of = (unit: number): Said | null => {
      const value = numbers[unit]!;
      let found = known.get(value);
      if (found === undefined) {
        const plain = Number.isNaN(value) ? "" : String(isMoney ? toUnits(value) : value);
        known.set(value, (found = say(this.numberText(plain, isMoney, steps))));
      }
      return found;
    };
    return { of, repeats: true };
  }

  private ofColumn(field: string, steps: readonly Step[] | undefined, clean: (raw: string) => string): CompiledPart {
    const { units } = this;
    const column = this.catalogue.columns[field];
    const say = this.sayer();
    // A field that is gone has nothing to say, unless a step says what to say then.
    if (!column) {
      const without = say(stepped("", steps).trim());
      return { of: () => without, repeats: true };
    }
    if (column.kind === "number") {
      const isMoney = (this.settings.isMoney ?? isMoneyColumn)(field);
      const shared = new Float64Array(units.count);
      for (let unit = 0; unit < units.count; unit++) shared[unit] = sharedBy(units, unit, column.values);
      return this.ofNumbers(shared, isMoney, steps);
    }
    const known: (Said | null | undefined)[] = [];
    const said = (code: number): Said | null => {
      let found = known[code];
      if (found === undefined) known[code] = found = say(stepped(clean(column.values[code]!), steps).trim());
      return found;
    };
    const { start, rows } = units;
    const of = (unit: number): Said | null => {
      const from = start[unit]!;
      if (start[unit + 1]! - from === 1) return said(column.codes[rows[from]!]!);
      const code = sharedBy(units, unit, column.codes);
      return said(Number.isNaN(code) ? 0 : code);
    };
    return { of, repeats: column.values.length < column.codes.length / 2 };
  }

  /** The words with which the titles of a unit's items begin. */
  private product(unit: number): string {
    return (this.products[unit] ??= this.makeProduct(unit));
  }

  private makeProduct(unit: number): string {
    const title = this.catalogue.columns["title"];
    if (title?.kind !== "text") return "";
    let shared: string[] | null = null;
    for (const row of rowsOf(this.units, unit)) {
      const own = wordsOf(cleanedValue(cellText(title, row)));
      if (shared === null) shared = own;
      else shared.length = sharedWords(shared, own);
      if (shared.length === 0) return "";
    }
    return asName(shared ?? []);
  }

  /** A number of a unit, worked out once for all of them; money in mills, NaN for unknown or nothing. */
  number(field: CopyField): Float64Array {
    let found = this.numbers.get(field);
    if (!found) this.numbers.set(field, (found = this.makeNumbers(field)));
    return found;
  }

  /** A number column of the catalogue by row, NaN all over where it has none. */
  column(name: string): Float64Array {
    const one = this.catalogue.columns[name];
    return one?.kind === "number" ? one.values : new Float64Array(this.catalogue.length).fill(NaN);
  }

  private makeNumbers(field: CopyField): Float64Array {
    const { units } = this;
    const [price, sale, stock] = [this.column("price"), this.column("salePrice"), this.column("stock")];
    const paidOf = paidPrices(this.catalogue);
    const paid = (row: number) => paidOf[row]!;
    const off = (row: number) => positive(price[row]! - sale[row]!);
    const share = (row: number) => positive(Math.floor(((price[row]! - sale[row]!) / price[row]!) * 100 + 1e-9));
    const each: Partial<Record<CopyField, (row: number) => number>> = {
      ...{ "copy:price": paid, "copy:amount-off": off, "copy:share-off": share },
    };
    const own = each[field];
    const made = new Float64Array(units.count).fill(NaN);
    for (let unit = 0; unit < units.count; unit++) {
      if (own) {
        made[unit] = sharedOf(units, unit, own);
        continue;
      }
      let [count, lowest, mostOff, mostShare, left, isStockKnown] = [0, Infinity, NaN, NaN, 0, true];
      for (const row of rowsOf(units, unit)) {
        if (!units.sellable[row]) continue;
        count++;
        if (paid(row) < lowest) lowest = paid(row);
        if (!(off(row) <= mostOff) && off(row) > 0) mostOff = off(row);
        if (!(share(row) <= mostShare) && share(row) > 0) mostShare = share(row);
        if (Number.isNaN(stock[row]!)) isStockKnown = false;
        else left += stock[row]!;
      }
      if (count === 0) continue;
      if (field === "copy:items") made[unit] = count;
      else if (field === "copy:lowest-price") made[unit] = lowest === Infinity ? NaN : lowest;
      else if (field === "copy:largest-off") made[unit] = count > 1 ? mostOff : NaN;
      else if (field === "copy:largest-share-off") made[unit] = count > 1 ? mostShare : NaN;
      else if (field === "copy:stock") made[unit] = isStockKnown ? left : NaN;
    }
    return made;
  }
}

const positive = (value: number) => (value > 0 ? value : NaN);

/** The value that all rows of a unit that can be bought have; NaN where they differ or there is none. */
function sharedBy(units: Units, unit: number, values: ArrayLike<number>): number {
  return sharedOf(units, unit, (row) => values[row]!);
}

function sharedOf(units: Units, unit: number, valueOf: (row: number) => number): number {
  const first = firstSellable(units, unit);
  // What nobody can buy is still called something.
  if (first < 0) return units.start[unit + 1]! > units.start[unit]! ? valueOf(units.rows[units.start[unit]!]!) : NaN;
  const value = valueOf(first);
  for (let i = units.start[unit]!; i < units.start[unit + 1]!; i++) {
    const row = units.rows[i]!;
    if (units.sellable[row] && valueOf(row) !== value) return NaN;
  }
  return value;
}

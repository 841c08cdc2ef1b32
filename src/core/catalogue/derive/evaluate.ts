import type { Column, Columns, NumberColumn, TextColumn } from "../../kit/columns";
import { fromUnits, MILLS_PER_UNIT } from "../../kit/money";
import { matchRows } from "../where";
import { fieldsOfParts, isField } from "../../parts/part";
import { stepped } from "../../parts/fill";
import { allSteps, formsOf, type DerivedField, type LookupList, type Output } from "./derived-field";
import { compileSteps, plain, readsRow, tidy, type StepContext } from "../../parts/steps";

/** Row caught by no rule. */
export const NO_RULE = 255;

export interface Derived {
  /** A column for each form. */
  columns: Column[];
  /** Which rule gave each row its value, or {@link NO_RULE}. */
  ruleOf: Uint8Array;
}

/** What evaluation needs to know beside the columns. */
export interface DeriveSettings {
  lists: ReadonlyMap<string, LookupIndex>;
  /** Whether a column holds money in mills, which parts and arithmetic read as currency units. */
  isMoney: (column: string) => boolean;
}

/** A look-up list made ready: by the folded text that is looked up. */
export type LookupIndex = ReadonlyMap<string, readonly [string, string]>;

/** Makes look-up lists ready. Of repeated entries the first counts. */
export function indexLists(lists: LookupList[]): Map<string, LookupIndex> {
  return new Map(
    lists.map(({ key, rows }) => {
      const index = new Map<string, [string, string]>();
      for (const [from, one, two] of rows) {
        const folded = from.trim().toLowerCase();
        if (!index.has(folded)) index.set(folded, [one, two]);
      }
      return [key, index];
    }),
  );
}

type Read = (row: number) => string;

/** Texts told apart: each gets a number once. */
class Dictionary {
  readonly values: string[] = [""];
  private readonly index = new Map<string, number>([["", 0]]);

  code(text: string): number {
    let code = this.index.get(text);
    if (code === undefined) {
      code = this.values.push(text) - 1;
      this.index.set(text, code);
    }
    return code;
  }
}

function reader(column: Column | undefined, isMoney: boolean): Read {
  if (!column) return () => "";
  if (column.kind === "text") return (row) => column.values[column.codes[row]!]!;
  const unit = isMoney ? MILLS_PER_UNIT : 1;
  return (row) => {
    const value = column.values[row]!;
    return Number.isNaN(value) ? "" : plain(value / unit);
  };
}

/**
 * Makes the function that gives the code of an output's text for a row. When the text depends on one text column alone
 * it is worked out once for each value of that column.
 */
function compileOutput(
  table: Columns,
  output: Output,
  settings: DeriveSettings,
  dictionary: Dictionary,
): (row: number) => number {
  const readers = output.parts.map((part) => {
    if (!isField(part)) return () => part.text;
    const read = reader(table.columns[part.field], settings.isMoney(part.field));
    return (row: number) => stepped(read(row), part.steps, context);
  });
  const change = compileSteps(output.steps);
  const fields = fieldsOfParts(output.parts);
  const numberReaders = new Map<string, Read>();
  let current = 0;
  const context: StepContext = {
    lookUp: (list, text, column) => settings.lists.get(list)?.get(text)?.[column - 1],
    number: (field) => {
      let read = numberReaders.get(field);
      if (!read) numberReaders.set(field, (read = reader(table.columns[field], settings.isMoney(field))));
      const text = read(current);
      return text.trim() === "" ? NaN : Number(text);
    },
  };
  const render = (row: number): number => {
    current = row;
    let text = "";
    for (const read of readers) {
      const part = read(row);
      if (part !== "") text = text === "" ? part : text + output.by + part;
    }
    return dictionary.code(tidy(change(text, context)));
  };
  const only = fields.length === 1 ? table.columns[fields[0]!] : undefined;
  if (only?.kind !== "text" || allSteps(output).some(readsRow)) return render;
  const { codes } = only;
  const kept = new Int32Array(only.values.length).fill(-1);
  return (row) => {
    const code = codes[row]!;
    const found = kept[code]!;
    return found >= 0 ? found : (kept[code] = render(row));
  };
}

/**
 * Works out a derived field for every row: of its rules in order, the first whose conditions hold and which gives a
 * value wins. An output without parts is empty on purpose and wins too.
 * @param table must hold the columns that the field reads; missing ones count as empty
 */
export function evaluateField(table: Columns, field: DerivedField, settings: DeriveSettings): Derived {
  const forms = formsOf(field);
  const dictionaries = Array.from({ length: forms }, () => new Dictionary());
  const codes = dictionaries.map(() => new Uint32Array(table.length));
  const ruleOf = new Uint8Array(table.length).fill(NO_RULE);
  field.rules.forEach((rule, no) => {
    const mask = matchRows(table, rule.when);
    const outputs = Array.from({ length: forms }, (_, form) => rule.then[form] ?? rule.then[0]!);
    const isEmpty = outputs[0]!.parts.length === 0;
    const renders = outputs.map((output, form) => compileOutput(table, output, settings, dictionaries[form]!));
    for (let row = 0; row < table.length; row++) {
      if (!mask[row] || ruleOf[row] !== NO_RULE) continue;
      const first = renders[0]!(row);
      if (first === 0 && !isEmpty) continue;
      ruleOf[row] = no;
      codes[0]![row] = first;
      for (let form = 1; form < forms; form++) codes[form]![row] = renders[form]!(row);
    }
  });
  const columns = codes.map((column, form) => toColumn(column, dictionaries[form]!.values, field.kind));
  return { columns, ruleOf };
}

function toColumn(codes: Uint32Array, values: string[], kind: DerivedField["kind"]): TextColumn | NumberColumn {
  if (kind === "text") return { kind: "text", codes, values };
  const numbers = values.map((text) => {
    const value = text === "" ? NaN : Number(text.replace(/[^\d.+-]+$/, ""));
    return Number.isNaN(value) ? NaN : kind === "money" ? fromUnits(value) : value;
  });
  return { kind: "number", values: Float64Array.from(codes, (code) => numbers[code]!) };
}

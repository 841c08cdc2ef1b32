import { sameColumns, textColumn, type Column, type Columns } from "../kit/columns";
import { CATEGORY_LEVELS, categoryColumn, categoryLevels } from "../kit/categories";
import { columnLabel } from "./catalogue-columns";
import {
  columnsReadBy,
  derivedColumn,
  isDerivedColumn,
  type DerivedField,
  type LookupList,
} from "./derive/derived-field";
import { evaluateField, indexLists, type DeriveSettings } from "./derive/evaluate";
import { orderFields } from "./derive/order";
import { proposeFamilies } from "./families";
import { FIELDS } from "./fields";
import { findFindings, type FoundFindings } from "./findings/find";
import { workMargins, type CostFile, type TaxRule } from "./margins";

/** What a workspace adds to its feed. */
export interface FinishSettings {
  derived: DerivedField[];
  lists: LookupList[];
  costs: CostFile;
  /** Whether proposed families stand in where the feed names none. */
  proposedFamilies: boolean;
  /** Which amounts hold tax, and how much where the feed does not say. */
  tax: TaxRule;
}

export interface Finished {
  /** Columns beside those of the feed. */
  columns: Record<string, Column>;
  /** Names that are served by another column: the feed's own stays under its name with {@link OWN_PREFIX}. */
  aliases: Record<string, string>;
  findings: FoundFindings;
  /** Sentences about derived fields that read columns that are not there. */
  notices: string[];
}

const MADE = new Set(["unitCost", "unitFee", "margin", "breakEven", "familyFound", "findings"]);

/** Whether a column is made by finishing rather than read from the feed. */
export function isMade(name: string): boolean {
  return MADE.has(name) || isDerivedColumn(name) || name.startsWith("derived-");
}

const MONEY_COLUMNS = new Set<string>([
  ...FIELDS.filter(({ kind }) => kind === "money").map(({ key }) => key),
  "unitCost",
  "unitFee",
]);

/** Whether a column holds money in mills. */
export function isMoneyColumn(name: string, derived: DerivedField[] = []): boolean {
  return MONEY_COLUMNS.has(name) || derived.some(({ key, kind }) => kind === "money" && derivedColumn(key) === name);
}

function workedOut<T>(work: () => T): T | null {
  try {
    return work();
  } catch {
    return null;
  }
}

/**
 * Makes what a workspace adds to the columns of its feed: costs and break-even return, proposed families, derived
 * fields in the order in which they build on each other, and the findings over all of it.
 * @param feed the columns of the feed alone
 * @param settings derived fields must be free of circles; see `orderFields`
 */
export function finishColumns(feed: Columns, settings: FinishSettings): Finished {
  const aliases: Record<string, string> = {};
  const columns: Record<string, Column> = {};
  const notices: string[] = [];
  // What rules and findings see: every name as the rest of the product will see it.
  const seen: Columns = { length: feed.length, columns: sameColumns(feed.columns) };
  const add = (name: string, column: Column, standsFor: string | null = null) => {
    columns[name] = column;
    seen.columns[name] = column;
    if (standsFor !== null) {
      aliases[standsFor] = name;
      // Defined rather than set: the name may be one that is read anew with each look.
      Object.defineProperty(seen.columns, standsFor, { value: column, enumerable: true, configurable: true });
    }
  };
  const margins = workMargins(feed, settings.costs, settings.tax);
  // Named apart from the feed's own, since `cost` is the spend among the metrics.
  add("unitCost", margins.cost);
  add("unitFee", margins.fee);
  add("margin", margins.margin);
  add("breakEven", margins.breakEven);
  const families = proposeFamilies(feed);
  if (settings.proposedFamilies) add("familyFound", families.family, "family");

  const ordered = orderFields(settings.derived);
  const derive: DeriveSettings = {
    lists: indexLists(settings.lists),
    isMoney: (name) => isMoneyColumn(name, settings.derived),
  };
  for (const field of ordered.ok ? ordered.value : []) {
    const gone = columnsReadBy(field).filter((name) => !(name in seen.columns));
    if (gone.length > 0) {
      const names = gone.map((name) => `"${columnLabel(name)}"`).join(", ");
      notices.push(`The derived field "${field.name}" reads ${names}, which is not there; it counts as empty.`);
    }
    // A rule that can't be worked out leaves its field out; it never stops a reading.
    const forms = workedOut(() => evaluateField(seen, field, derive).columns);
    if (!forms) {
      notices.push(`The derived field "${field.name}" could not be worked out and was left out. Look at its rules.`);
      continue;
    }
    forms.forEach((column, form) => add(derivedColumn(field.key, form), column, form === 0 ? field.replaces : null));
    if (field.replaces === "category" && forms[0]?.kind === "text") addLevels(forms[0].values, forms[0].codes);
  }

  function addLevels(values: string[], codes: Uint32Array): void {
    const levels = values.map((path) => categoryLevels(path));
    for (let level = 1; level <= CATEGORY_LEVELS; level++) {
      // Codes of different paths can stand for one level, so levels are coded anew.
      const texts = textColumn(Array.from(codes, (code) => levels[code]![level - 1] ?? ""));
      add(`derived-${categoryColumn(level)}`, texts, categoryColumn(level));
    }
  }

  const { column, found } = findFindings(seen, settings.proposedFamilies ? new Uint8Array(0) : families.proposed);
  columns["findings"] = column;
  return { columns, aliases, findings: found, notices };
}

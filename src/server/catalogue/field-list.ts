import { columnLabel, EXTRA_PREFIX } from "@/core/catalogue/catalogue-columns";
import { isDerivedColumn } from "@/core/catalogue/derive/derived-field";
import { FIELD, FIELD_KEYS, type FieldKey } from "@/core/catalogue/fields";
import { isMoneyColumn } from "@/core/catalogue/finish";
import { coverage } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { rememberReady } from "../read/ready";
import { loadCatalogue } from "./load";
import { derivedNames, listDerived } from "./derived";

export interface FieldInfo {
  name: string;
  label: string;
  /** What its values are. */
  kind: "text" | "number" | "money" | "share";
  group: "feed" | "extra" | "derived" | "made";
  filled: number;
  distinct: number;
  items: number;
}

/** Columns that are for the machine, not for people. */
const HIDDEN = new Set(["itemNo", "rowHash", "warnings", "findings", "cost", "fee"]);

/** Every column that rules, filters and splits can use, with its coverage and number of values. */
export async function listFields(db: Database): Promise<FieldInfo[]> {
  const { names, revision } = await loadCatalogue(db, []);
  return rememberReady(db, "fields", [revision], () => makeFields(db, names));
}

async function makeFields(db: Database, names: string[]): Promise<FieldInfo[]> {
  const derived = await listDerived(db);
  const labels = await derivedNames(db);
  const fields: FieldInfo[] = [];
  for (const name of names.filter((one) => !HIDDEN.has(one))) {
    // One at a time, so that the columns of a large catalogue are not all read at once while others wait.
    const { columns, length } = await loadCatalogue(db, [name]);
    const column = columns[name];
    if (!column) continue;
    const kind =
      name === "margin" || name === "tax"
        ? "share"
        : isMoneyColumn(name, derived)
          ? "money"
          : column.kind === "number"
            ? "number"
            : "text";
    const group = isDerivedColumn(name)
      ? "derived"
      : name.startsWith(EXTRA_PREFIX)
        ? "extra"
        : name === "margin" || name === "breakEven" || name.startsWith("own:")
          ? "made"
          : "feed";
    const label = name === "id" ? FIELD.id.label : columnLabel(name, labels);
    fields.push({ name, label, kind, group, ...coverage(column), items: length });
    await new Promise((resolve) => setImmediate(resolve));
  }
  // In the order in which fields are mapped; what this feed never fills comes last.
  const place = ({ name, filled, group }: FieldInfo) => {
    const at = FIELD_KEYS.indexOf(name.replace(/\d$/, "") as FieldKey);
    const order = at >= 0 ? at : { feed: 50, derived: 30, made: 40, extra: 60 }[group];
    return filled === 0 ? 100 + order : order;
  };
  return fields.sort((a, b) => place(a) - place(b));
}

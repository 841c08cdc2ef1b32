import { fail, ok, type Outcome } from "../../kit/outcome";
import { columnsReadBy, derivedColumn, formsOf, type DerivedField } from "./derived-field";

/**
 * The fields in an order in which each comes after those it builds on. Fields stay in the given order otherwise.
 * A field that stands in for a feed's field counts as the source of that name for all others, but reads the feed's
 * own value itself.
 * @returns a failure that names the path when fields build on each other in a circle
 */
export function orderFields(fields: DerivedField[]): Outcome<DerivedField[]> {
  const makers = new Map<string, DerivedField>();
  for (const field of fields) {
    for (let form = 0; form < formsOf(field); form++) makers.set(derivedColumn(field.key, form), field);
    if (field.replaces) makers.set(field.replaces, field);
  }
  const ordered: DerivedField[] = [];
  const state = new Map<string, "open" | "done">();
  const path: DerivedField[] = [];
  const visit = (field: DerivedField): DerivedField[] | null => {
    if (state.get(field.key) === "done") return null;
    if (state.get(field.key) === "open") return [...path.slice(path.indexOf(field)), field];
    state.set(field.key, "open");
    path.push(field);
    for (const name of columnsReadBy(field)) {
      const maker = makers.get(name);
      if (!maker || (maker === field && name === field.replaces)) continue;
      const cycle = visit(maker);
      if (cycle) return cycle;
    }
    path.pop();
    state.set(field.key, "done");
    ordered.push(field);
    return null;
  };
  for (const field of fields) {
    const cycle = visit(field);
    if (cycle) {
      return fail(
        "derived-cycle",
        `These fields build on each other in a circle: ${cycle.map(({ name }) => name).join(" → ")}.`,
        "Let one of them read a field of the feed instead. Nothing was saved.",
      );
    }
  }
  return ok(ordered);
}

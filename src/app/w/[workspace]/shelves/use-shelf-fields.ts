import { useMemo } from "react";
import { FAULTS } from "@/core/catalogue/faults";
import { MORE_METRIC_KEYS, SHELF_METRICS } from "@/core/shelves/shelf-metrics";
import { shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { ShelfSetInfo } from "@/server/shelves/sets";
import { useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";
import { useFields } from "../catalogue/use-feeds";
import { fieldChoices, type FieldChoice } from "../catalogue/where-builder";

/** How values of a metric are typed and shown. */
export function kindOfMetric(name: string): FieldChoice["kind"] {
  const kind = SHELF_METRICS[name.replace(/^family:/, "")]?.kind;
  return kind === "money" ? "money" : kind === "percent" ? "share" : "number";
}

/** All shelf sets. */
export function useShelfSets() {
  const apiPath = useApiPath();
  return useApi<ShelfSetInfo[]>(apiPath("shelf-sets"));
}

/** What a rule of a set can ask: fields, metrics over the set's window, notes, faults, and other sets' shelves. */
export function useShelfFields(own: string): FieldChoice[] {
  const fields = useFields();
  const sets = useShelfSets();
  return useMemo(() => {
    const more = MORE_METRIC_KEYS.filter((key) => !fields.some(({ name }) => name === key)).map((key): FieldChoice => ({
      ...{ name: key, label: SHELF_METRICS[key]!.label, kind: kindOfMetric(key), group: "Results" },
    }));
    const shelves = (sets.data ?? [])
      .filter(({ definition }) => definition.key !== own)
      .map(({ definition }) => shelfChoice(definition));
    const faults = FAULTS.map(({ code, label }): FieldChoice => ({
      ...{ name: `fault:${code}`, label, kind: "number", group: "Faults" },
    }));
    // Whether an item has a home hangs on campaigns, which are made of shelves.
    return [...fieldChoices(fields, true).filter(({ name }) => name !== "home"), ...more, ...shelves, ...faults];
  }, [fields, sets.data, own]);
}

/** Shelf sets as columns and filters of the item table, where shelves go by their names. */
export function tableShelves(sets: ShelfSetInfo[]): FieldChoice[] {
  return sets.map(({ definition }) => {
    const { optionLabels, ...choice } = shelfChoice(definition);
    return { ...choice, options: optionLabels ?? [] };
  });
}

function shelfChoice(set: ShelfSet): FieldChoice {
  const shelves = shelvesOf(set);
  return {
    ...{ name: `shelf:${set.key}`, label: `Shelf of ${set.name}`, kind: "choice", group: "Shelf sets" },
    options: shelves.map(({ value }) => value),
    optionLabels: shelves.map(({ name }) => name),
  };
}

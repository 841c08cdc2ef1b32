import { LINK_STATE_LABEL } from "@/core/catalogue/check-page";
import { FAULTS, faultBits, type FaultCode } from "@/core/catalogue/faults";
import { FINDING, hasFinding, type FindingCode } from "@/core/catalogue/findings/finding";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText, type Column } from "@/core/kit/columns";
import type { RowSums } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { loadCatalogue } from "./load";
import { latestNotes } from "./notes";
import { linkFaults } from "./link-faults";

/** Prefix of the columns that mark the items with a fault or finding. */
export const FAULT_PREFIX = "fault:";

/** Which rows have a fault, finding or link fault, as a column of ones. */
export async function faultColumn(db: Database, code: string, sums: RowSums): Promise<Column> {
  const { columns, length } = await loadCatalogue(db, ["warnings", "findings", "id", "availability"]);
  const values = new Float64Array(length).fill(NaN);
  const mark = (holds: (row: number) => boolean) => {
    for (let row = 0; row < length; row++) if (holds(row)) values[row] = 1;
  };
  const { warnings, findings, id, availability } = columns;
  if (code === "soldout-spend") {
    mark((row) => !isBuyable(availability ? cellText(availability, row) : "") && sums.cost[row]! > 0);
  } else if (code.startsWith("link-") && code.slice(5) in LINK_STATE_LABEL) {
    const faults = await linkFaults(db);
    mark((row) => faults.get(id ? cellText(id, row) : "")?.state === code.slice(5));
  } else if (code in FINDING && findings?.kind === "number") {
    mark((row) => hasFinding(findings.values[row]!, code as FindingCode));
  } else if (FAULTS.some((fault) => fault.code === code) && warnings?.kind === "number") {
    const bit = faultBits([code as FaultCode]);
    mark((row) => (warnings.values[row]! & bit) !== 0);
  }
  return { kind: "number", values };
}

/** What was noted last on each item, or on its family. */
export async function noteColumn(db: Database): Promise<Column> {
  const { columns, length } = await loadCatalogue(db, ["id", "family"]);
  const { items, families } = await latestNotes(db);
  const { id, family } = columns;
  const values = [""];
  const codes = new Uint32Array(length);
  if (items.size + families.size > 0) {
    for (let row = 0; row < length; row++) {
      const text = items.get(id ? cellText(id, row) : "") ?? (family ? families.get(cellText(family, row)) : undefined);
      if (text) codes[row] = values.push(text) - 1;
    }
  }
  return { kind: "text", codes, values };
}

import { gunzipSync, gzipSync } from "node:zlib";
import type { AccountRecord } from "@/core/account/records";
import type { PlannedRecords } from "@/core/planogram/planned-records";

/** The records of a plan as they are kept in the database: gzipped JSON. */
export function packPlan(plan: PlannedRecords): Buffer {
  return gzipSync(JSON.stringify([...plan.values()]), { level: 1 });
}

/** Plans that were kept by earlier versions are records by key. */
export function unpackPlan(bytes: ArrayBuffer | Uint8Array): PlannedRecords {
  const kept = JSON.parse(gunzipSync(bytes).toString()) as AccountRecord[] | Record<string, AccountRecord>;
  return new Map(Object.values(kept).map((record) => [record.key, record]));
}
